"""What the recipe says in each chapter, for layers of each kind."""

from pale_ember.app.recipe.chapter_table import CHAPTERS

from ...building import effect_with
from ..told import ToldCase

CURVE = {"curve": [[0, 0], [0.5, 60], [1, 20]]}


class RecipeTold(ToldCase):
    def first_effect(self):
        layers = {
            "sprites": {
                "emit.rate": CURVE,
                "emit.bursts": [{"at": 0.5, "count": 20, "repeat": 3}, {"at": 1}],
                "launch.speed": {"spread": [1, 3]},
                "flight.drag": {"band": [[[0, 1], [1, 2]], [[0, 2], [1, 4]]]},
                "flight.turbulence": 2,
                "look.color": {"gradient": [[0, "#ffe0a0"], [1, "#803010"]]},
                "look.tint": {"one_of": ["#ff0000", "#00ff00", "#3060ff"]},
                "look.erode.amount": 0.3,
                "look.facing": "streak",
                "look.lit": 0.5,
                "contact.enabled": True,
                "path": [{}, {"at": 0.5, "position": [1, 0, 0]}, {"at": 1}],
            },
            "ribbons": {
                "look.draw": "ribbon",
                "look.ribbon.lay": "repeat",
                "birthplace.kind": "line",
                "origin.parent": "sprites",
                "origin.when": "alive",
            },
            "bodies": {
                "look.draw": "mesh",
                "look.mesh.mesh": "shards",
                "look.mesh.core": 0.5,
                "birthplace.kind": "bow",
                "origin.parent": "sprites",
                "origin.when": "hit",
            },
        }
        effect = effect_with(layers)
        props = [
            {"name": "post", "kind": "cylinder"},
            {"name": "stone", "kind": "ball", "path": [{}, {"at": 1}]},
        ]
        return effect.edit("stage.props", props).edit("notes", "Two lines\nof notes")

    def test_every_chapter_of_every_kind_of_layer(self):
        recipe = self.window.recipe
        for layer in self.session.effect.layers:
            self.session.select(layer.id)
            self.wait_for_moment()
            self.wait(lambda: not self.session.textures.busy)
            lines: list[str] = []
            for index, name in enumerate(CHAPTERS):
                recipe.show_chapter(index)
                page = recipe.chapters[name]
                self.wait(page.isVisible)
                lines += [f"== {name}", *self.told(page, tips=False)]
            self.assert_says(f"recipe-{layer.name}", lines)

    def test_tips_say_what_a_field_does_and_its_default(self):
        pages = [self.window.recipe.chapters[name] for name in CHAPTERS]
        tips = {row.label.toolTip().replace("<br>", " ") for page in pages for row in page.rows.values()}
        self.assert_says("recipe-tips", sorted(tips))

    def test_several_layers_and_what_is_found(self):
        recipe = self.window.recipe
        self.session.select("sprites")
        self.session.select("bodies", "also")
        lines = []
        for index in (0, 2, 4):
            recipe.show_chapter(index)
            lines += self.told(recipe.chapters[list(CHAPTERS)[index]], tips=False)
        self.assert_says("recipe-several", lines)
        recipe.search.setText("speed")
        self.assert_says("recipe-found", self.told(recipe, tips=False))
