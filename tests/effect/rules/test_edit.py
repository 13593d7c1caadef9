import unittest

from pale_ember.effect import Effect, EffectError, Layer, get
from pale_ember.effect.editing.layers import add_layer, duplicate_layer, move_layers, remove_layer
from pale_ember.effect.rules.part import Part
from pale_ember.effect.values.colors import ColorSpread, Flat, Gradient, OneOf, Stop
from pale_ember.effect.values.forms import COLOR_FORMS, FORMS, form_of, to_color_form, to_form, with_stops
from pale_ember.effect.values.values import Band, Curve, Fixed, Spread, Value

from ...building import effect_with, single


class EditTest(unittest.TestCase):
    def test_an_edit_gives_another_effect_and_shares_the_rest(self):
        effect = effect_with({"a": {}, "b": {}})
        edited = effect.edit("layers[0].emit.rate", 60)
        self.assertEqual(edited.layers[0].emit.rate, Fixed(60.0))
        self.assertEqual(effect.layers[0].emit.rate, Fixed(20.0))
        self.assertIs(edited.layers[1], effect.layers[1])
        self.assertIs(edited.layers[0].look, effect.layers[0].look)
        with self.assertRaises(ValueError):
            effect.layers[0].name = "other"

    def test_every_part_beside_the_way_to_what_is_edited_is_shared(self):
        effect = effect_with(
            {
                "a": {"emit.bursts": [{"at": 1}, {"at": 2}], "look.grow": {"curve": [[0, 0], [1, 2]]}},
                "b": {"path": [{"at": 0}, {"at": 1, "position": [1, 2, 3]}], "look.erode.amount": 0.5},
            }
        ).edit("stage.props", [{"kind": "box"}, {"kind": "ball"}])

        def parts(part, at=""):
            yield at, part
            if isinstance(part, Part):
                for name in type(part).model_fields:
                    yield from parts(getattr(part, name), f"{at}.{name}" if at else name)
            elif isinstance(part, tuple):
                for i, one in enumerate(part):
                    yield from parts(one, f"{at}[{i}]")

        for path, value in (
            ("layers[0].emit.bursts[1].at", 3.0),
            ("layers[0].look.opacity", 0.3),
            ("layers[1].path[1].position", [4, 5, 6]),
            ("layers[1].look.erode.amount", 0.25),
            ("stage.props[0].position", [1, 1, 1]),
            ("duration", 9.0),
        ):
            edited = effect.edit(path, value)
            after = dict(parts(edited))
            for at, part in parts(effect):
                on_the_way = at == path or at == "" or path.startswith((f"{at}.", f"{at}["))
                below = at.startswith((f"{path}.", f"{path}["))
                if isinstance(part, Part | tuple | Value) and not below:
                    self.assertEqual(after[at] is part, not on_the_way, (path, at))

    def test_paths_lead_into_values(self):
        effect = single({"look.grow": {"curve": [[0, 0], [0.5, 2], [1, 0]]}})
        edited = effect.edit("layers[0].look.grow.curve[1]", [0.25, 3])
        self.assertEqual([k.x for k in edited.layers[0].look.grow.keys], [0, 0.25, 1])
        edited = effect.edit("layers[0].launch.push[1]", {"spread": [2, 1]})
        self.assertEqual(edited.layers[0].launch.push.y, Spread(1.0, 2.0))
        self.assertEqual(get(edited, "layers[0].launch.push[1]"), Spread(1.0, 2.0))
        self.assertEqual(get(edited, "layers[0].launch.push[1].spread[0]"), 1)

    def test_refusals_name_the_place_and_a_mend(self):
        effect = single({"emit.bursts": [{"at": 1}]})
        for path, value, place, words in (
            ("layers[0].launch.lifetime", -1, "layers[0].launch.lifetime", "least is 0.001"),
            ("layers[0].launch.lifetme", 1, "layers[0].launch.lifetme", "lifetime"),
            ("layers[4].name", "x", "layers[4]", "1 entries"),
            ("layers[0].look.grow", {"crve": []}, "layers[0].look.grow", "curve"),
            (
                "layers[0].look.grow",
                {"curve": [[0, 1], [2, 1]]},
                "layers[0].look.grow.curve[1][0]",
                "most is 1",
            ),
            (
                "layers[0].look.grow",
                {"curve": [[0, 1]], "along": "wind"},
                "layers[0].look.grow.along",
                "life or clock",
            ),
            ("layers[0].emit.bursts[0].chance", 2, "layers[0].emit.bursts[0].chance", "too high"),
            ("layers[0].emit", {"rat": 2}, "layers[0].emit.rat", "rate"),
            ("layers[0].look.color", "red", "layers[0].look.color", "#ffb070"),
            ("layers[0].look.blend", "addd", "layers[0].look.blend", "add"),
            ("layers[0].launch.speed", float("nan"), "layers[0].launch.speed", "finite"),
            ("layers[0].launch.speed", 10**400, "layers[0].launch.speed", "finite"),
            ("layers[0].launch.speed", True, "layers[0].launch.speed", "number"),
            ("step_rate", 45, "step_rate", "30, 60 or 120"),
            ("layers", [Layer(id="x"), Layer(id="x")], "layers[1].id", "another"),
            ("", 1, "", "empty"),
            ("layers[0]..name", 1, "layers[0]..name", "breaks off"),
        ):
            with self.subTest(path=path, value=value), self.assertRaises(EffectError) as caught:
                effect.edit(path, value)
            self.assertEqual(caught.exception.place, place)
            self.assertIn(words, caught.exception.reason)

    def test_layers_are_copied_deep_and_get_their_own_ids(self):
        effect = duplicate_layer(single({"launch.speed": 3}), "a")
        self.assertEqual([layer.name for layer in effect.layers], ["a", "a 2"])
        self.assertNotEqual(effect.layers[0].id, effect.layers[1].id)
        edited = effect.edit("layers[1].launch.speed", 5)
        self.assertEqual(edited.layers[0].launch.speed, Fixed(3.0))
        moved = move_layers(edited, [edited.layers[1].id], 0)
        self.assertEqual([layer.name for layer in moved.layers], ["a 2", "a"])
        self.assertEqual(len(remove_layer(moved, "a").layers), 1)
        self.assertEqual(add_layer(Effect(), Layer(name="x")).layers[0].name, "x")

    def test_every_form_goes_to_every_other(self):
        starts = (
            Fixed(2.0),
            Spread(1.0, 3.0),
            to_form(Fixed(2.0), "curve", "life"),
            to_form(Spread(1, 3), "band", "clock"),
        )
        for start in starts:
            for form in FORMS:
                self.assertEqual(form_of(to_form(start, form, "life")), form)
        band = to_form(Spread(1.0, 3.0), "band", "life")
        self.assertIsInstance(band, Band)
        self.assertEqual(to_form(band, "spread", "life"), Spread(1.0, 3.0))
        self.assertIsInstance(to_form(band, "curve", "life"), Curve)
        self.assertEqual(to_form(band, "fixed", "life"), Fixed(2.0))
        colors = [to_color_form(single().layers[0].look.color, form, "life") for form in COLOR_FORMS]
        for now in (*colors, OneOf(("#ff0000", "#00ff00", "#0000ff")), OneOf(("#123456",))):
            for form in COLOR_FORMS:
                self.assertEqual(form_of(to_color_form(now, form, "life")), form)

    def test_a_palette_fills_a_list_and_becomes_a_gradient_elsewhere(self):
        stops = tuple(Stop(k / 79, f"#{k // 2:02x}0000") for k in range(80))
        self.assertEqual(
            with_stops(OneOf(("#ffffff",)), stops, "life"), OneOf(tuple(f"#{k:02x}0000" for k in range(32)))
        )
        self.assertEqual(with_stops(Flat("#ffffff"), stops, "clock"), Gradient(stops, "clock"))
        self.assertEqual(with_stops(Gradient(stops[:2], "speed"), stops, "clock"), Gradient(stops, "speed"))

    def test_a_wrong_list_of_colours_is_refused_where_it_is_wrong(self):
        for wrong, place, said in (
            ({"one_of": []}, ".one_of", "list of colours"),
            ({"one_of": "#ffffff"}, ".one_of", "list of colours"),
            ({"one_of": ["#ffffff", "red"]}, ".one_of[1]", "#ffb070"),
            ({"one_of": ["#ffffff"] * 33}, ".one_of", "at most 32"),
            ({"one_of": ["#ffffff"], "along": "life"}, ".along", "runs along nothing"),
            ({"one_of": ["#ffffff"], "spread": ["#fff", "#000"]}, "", "exactly one of"),
        ):
            with self.assertRaises(EffectError) as caught:
                single().edit("layers[0].look.tint", wrong)
            self.assertEqual(
                (caught.exception.place, said in caught.exception.reason),
                (f"layers[0].look.tint{place}", True),
                caught.exception,
            )
        with self.assertRaises(EffectError):
            single().edit("layers[0].launch.lifetime", {"one_of": [1, 2]})

    def test_one_of_several_colours_goes_to_a_gradient_and_back(self):
        three = OneOf(("#ff0000", "#00ff00", "#0000ff"))
        there = to_color_form(three, "curve", "clock")
        self.assertEqual(
            there, Gradient((Stop(0, "#ff0000"), Stop(0.5, "#00ff00"), Stop(1, "#0000ff")), "clock")
        )
        self.assertEqual(to_color_form(there, "one of", "life"), three)
        self.assertEqual(
            to_color_form(ColorSpread("#ff0000", "#0000ff"), "one of", "life"), OneOf(("#ff0000", "#0000ff"))
        )
        self.assertEqual(to_color_form(Flat("#ff0000"), "one of", "life"), OneOf(("#ff0000", "#ff0000")))
        self.assertEqual(to_color_form(three, "spread", "life"), ColorSpread("#ff0000", "#0000ff"))


if __name__ == "__main__":
    unittest.main()
