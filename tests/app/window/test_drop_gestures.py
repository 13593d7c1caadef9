"""What each kind of file does wherever it is dropped."""

from pathlib import Path

from PIL import Image
from PyQt6.QtCore import QPoint

from pale_ember.effect import save_effect
from pale_ember.effect.values.colors import Stop
from pale_ember.files.palettes import save_palette

from ...building import effect_with, single
from ..gestures import GestureCase

TRIANGLE = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"


class DropGestures(GestureCase):
    def first_effect(self):
        return effect_with({"flame": {"group": "fire"}, "smoke": {"look.draw": "mesh", "look.lit": 0.5}})

    def setUp(self):
        super().setUp()
        self.window.stage.setUpdatesEnabled(False)
        self.chosen = "flame"
        names = (
            "x.ember",
            "broken.ember",
            "soot.png",
            "ash.PNG",
            "sand.gpl",
            "cup.obj",
            "none.obj",
            "notes.txt",
        )
        self.files = {name: Path(self.folder.name, name) for name in names}
        save_effect(single({"name": "dropped"}), self.files["x.ember"])
        self.files["broken.ember"].write_text("nothing")
        for i, name in enumerate(("soot.png", "ash.PNG")):
            Image.new("RGBA", (16, 8), (200, 90 * i, 40, 255)).save(self.files[name])
        save_palette((Stop(0.0, "#102030"), Stop(1.0, "#f0e0d0")), "sand", str(self.files["sand.gpl"]))
        self.files["cup.obj"].write_text(TRIANGLE)
        self.files["notes.txt"].write_text("notes")

    def state(self):
        bench = self.window.bench
        return super().state() | {
            "chapter": self.window.recipe.chapter,
            "bench": bench.name,
            "steps": " ".join(step.step for step in bench.steps),
        }

    def prepare(self):
        self.session.select(self.chosen)
        self.window.strip.show_axis("life")

    def put(self, name, widget, at):
        # Lanes are made anew where what they show is another.
        widget = self.window.strip.lanes[widget] if isinstance(widget, str) else widget
        self.drop(self.files[name], widget, at)
        self.said.insert(0, f"({self.hinted})")

    def targets(self):
        window, rows = self.window, self.window.timeline.rows
        places = rows.places

        def middle(name):
            return places.row_of_layer(name).top + 10

        group = next(row for row in places.rows if row.is_group)
        return {
            "the stage": (window.stage, None),
            "the row of smoke": (rows, QPoint(120, middle("smoke"))),
            "the row of a group": (rows, QPoint(120, group.top + 4)),
            "the lane of opacity": ("look.opacity", None),
            "the lane of colour": ("look.color", None),
        }

    def test_files_over_the_parts_of_the_window(self):
        self.prepare()
        for target, (widget, at) in self.targets().items():
            for name in self.files:
                if name.endswith(".ember") and "row" not in target:
                    continue  # it would be opened, which nothing takes back
                self.does(f"drop {name} on {target}", lambda n=name, w=widget, a=at: self.put(n, w, a))
        self.assert_says("gestures-drops", [line.replace(self.folder.name, "…") for line in self.lines])

    def test_files_over_fields_and_where_there_is_no_layer(self):
        for path in ("look.texture", "look.color", "launch.speed"):
            for name in ("soot.png", "sand.gpl", "cup.obj"):
                self.does(
                    f"drop {name} on {path}",
                    lambda n=name, p=path: self.put(n, self.row(p).controls[0], None),
                )
        self.session.edit("layers", [], "Nothing")
        self.chosen = ""
        for name in ("soot.png", "sand.gpl", "cup.obj", "notes.txt"):
            self.does(f"drop {name} without layers", lambda n=name: self.put(n, self.window.stage, None))
        self.assert_says(
            "gestures-drops-fields", [line.replace(self.folder.name, "…") for line in self.lines]
        )
