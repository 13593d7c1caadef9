"""Layers by name, textures and what they count, limits that parts hold together, and older files."""

import unittest

import numpy as np

from pale_ember.effect.editing.follow_starts import SLOWEST, hits_each, with_contact
from pale_ember.effect.effect import Effect
from pale_ember.effect.errors import EffectError
from pale_ember.effect.steps.drawn import MOST_DRAWN
from pale_ember.effect.storing.migrations import migrated
from pale_ember.effect.textures import MOST_PIXELS
from pale_ember.effect.values.colors import linear_to_hex
from pale_ember.effect.values.oklch import from_oklch, strongest

from ..building import effect_with, single


def texture(**fields):
    return Effect().edit("textures", [{"name": "one", **fields}]).textures[0]


class Layers(unittest.TestCase):
    def test_a_layer_is_found_by_its_id_or_by_a_name_that_only_one_has(self):
        effect = effect_with({"a": {}, "b": {"name": "a"}, "c": {"name": "smoke"}, "d": {"name": "haze"}})
        self.assertEqual(effect.layer("a").id, "a")
        self.assertEqual(effect.layer("smoke").id, "c")
        twice = effect.edit("layers[3].name", "smoke")
        with self.assertRaisesRegex(EffectError, "2 layers are called “smoke”; use the id of one"):
            twice.layer("smoke")
        with self.assertRaisesRegex(EffectError, "no layer has this name or id; there are a, a, smoke, haze"):
            effect.layer("none")
        with self.assertRaisesRegex(EffectError, "there are none"):
            Effect().layer("none")

    def test_a_layer_that_meets_things_touches_with_half_of_what_is_seen_unless_it_says_otherwise(self):
        plain = with_contact(single().layers[0]).contact
        self.assertEqual((plain.enabled, plain.reach), (True, 0.35))
        own = with_contact(single({"contact.bounce": 0.9}).layers[0]).contact
        self.assertEqual((own.enabled, own.reach), (True, single().layers[0].contact.reach))

    def test_a_bouncing_parent_hits_until_it_is_slow(self):
        def hits(**contact):
            return hits_each(single({f"contact.{name}": value for name, value in contact.items()}).layers[0])

        self.assertEqual(hits(on_hit="vanish", bounce=0.9), 1.0)
        self.assertEqual(hits(bounce=0.01), 1.0)
        # From 6 m/s on, each time by the share that is left.
        for bounce in (0.3, 0.5, 0.9):
            speed, times = 6.0, 1.0
            while speed * bounce >= SLOWEST:
                speed, times = speed * bounce, times + 1
            self.assertAlmostEqual(hits(bounce=bounce), times, delta=1.0)
        self.assertEqual(hits(bounce={"spread": [0.1, 1]}), hits(bounce=0.95))


class Textures(unittest.TestCase):
    def test_frames_are_those_of_the_sheet_or_those_that_stay(self):
        cases = (
            ({}, 1, 1),
            ({"file": "a.png", "columns": 4, "rows": 2}, 1, 8),
            ({"file": "a.png", "columns": 4, "rows": 2, "frames": 5}, 5, 5),
            ({"file": "a.png", "columns": 4, "rows": 2, "frames": 9}, 9, 8),
            ({"file": "a.png", "columns": 64, "rows": 64}, 1, 256),
            ({"frames": 6, "build": {}}, 6, 6),
            ({"frames": 6, "build": {"order": [5, 0, 0]}}, 6, 3),
            ({"file": "a.png", "frames": 2, "columns": 2, "build": {"order": [0]}}, 2, 2),
        )
        for fields, made, count in cases:
            with self.subTest(fields):
                self.assertEqual((texture(**fields).made, texture(**fields).count), (made, count))

    def test_too_many_pixels_are_refused_up_to_the_last_one(self):
        self.assertEqual(MOST_PIXELS, 16 * 1024**2)
        self.assertEqual(texture(frames=16, build={"size": 1024}).made, 16)
        with self.assertRaisesRegex(EffectError, "17 frames of 1024 pixels are too many"):
            texture(frames=17, build={"size": 1024})
        with self.assertRaisesRegex(EffectError, "17 frames of 1024"):
            texture(frames=2, build={"size": 1024, "order": [0] * 17})
        self.assertEqual(texture(file="a.png", frames=17, build={"size": 1024}).made, 17)

    def test_files_are_named_and_renamed(self):
        steps = [{"step": "picture", "files": ["a.png", "b.png"]}, {"step": "dot"}, {"step": "picture"}]
        built, file = texture(build={"steps": steps}), texture(file="a.png", build={"steps": steps})
        self.assertEqual(built.files(), ("a.png", "b.png"))
        self.assertEqual((file.files(), texture().files()), (("a.png",), ()))
        moved = built.with_files(lambda name: f"x/{name}")
        self.assertEqual(moved.files(), ("x/a.png", "x/b.png"))
        self.assertEqual(moved.build.steps[1:], built.build.steps[1:])
        self.assertIs(built.with_files(lambda name: name), built)
        self.assertEqual(file.with_files(lambda name: f"x/{name}").file, "x/a.png")

    def test_strokes_count_as_often_as_they_are_turned_and_mirrored(self):
        def strokes(points, **fields):
            line = " ".join("0,0" for _ in range(points))
            some = [{"points": " ".join("0,0" for _ in range(2000))}] * (points // 2000)
            rest = [{"points": line}] if points < 2000 else []
            return texture(build={"steps": [{"step": "strokes", "strokes": some + rest, **fields}]})

        whole = MOST_DRAWN // 2000 * 2000
        self.assertTrue(strokes(whole).build.steps)
        for fields, times in (
            ({"symmetry": 4}, 4),
            ({"mirror": True}, 2),
            ({"symmetry": 4, "mirror": True}, 8),
        ):
            fits = whole // times // 2000 * 2000
            self.assertTrue(strokes(fits, **fields).build.steps)
            with self.assertRaisesRegex(
                EffectError, f"have {(fits + 2000) * times:,} points; at most {MOST_DRAWN:,}"
            ):
                strokes(fits + 2000, **fields)

    def test_points_pictures_and_frames_are_read_as_they_are_written_or_refused(self):
        def points(written):
            step = texture(
                build={"steps": [{"step": "strokes", "strokes": [{"points": written}]}]}
            ).build.steps[0]
            return step.strokes[0].points

        self.assertEqual(points("0,0.5 0.12345,-1,0.3337"), ((0.0, 0.5, 1.0), (0.1235, -1.0, 0.334)))
        self.assertEqual(points([[0, 1]]), ((0.0, 1.0, 1.0),))
        for written, words in (
            (3, "points are written “0,0.5 0.1,0.4”, not 3"),
            ("0", "a point is x,y or x,y,pressure"),
            ("0,0,0,0", "a point is x,y or x,y,pressure"),
            ("a,b", "a point is made of numbers"),
            ("0,0,2", "is too high"),
        ):
            with self.assertRaisesRegex(EffectError, words):
                points(written)
        for field, value, words in (
            ("files", 3, "must be a list of picture files, not 3"),
            ("files", ["a.png"] * 257, "257 pictures are too many; at most 256 fit"),
        ):
            with self.assertRaisesRegex(EffectError, words):
                texture(build={"steps": [{"step": "picture", field: value}]})
        for value, words in (
            (3, "must be a list of frames"),
            ([0] * 257, "257 frames are too many"),
            ([0.5], "0.5"),
        ):
            with self.assertRaisesRegex(EffectError, words):
                texture(build={"order": value})


class Others(unittest.TestCase):
    def test_the_strongest_colour_of_a_screen_is_on_its_edge(self):
        light = np.linspace(0.05, 0.95, 13)
        for hue in range(0, 360, 30):
            most = strongest(light, hue)
            inside = from_oklch(light, most * 0.999, hue)
            outside = from_oklch(light, most * 1.02 + 1e-4, hue)
            self.assertTrue(((inside >= -1e-9) & (inside <= 1 + 1e-9)).all())
            self.assertTrue(((outside < 0) | (outside > 1)).any(axis=-1).all())
            self.assertEqual(len(linear_to_hex(inside[0])), 7)

    def test_old_backdrops_and_pans_mean_what_they_meant(self):
        old = {"format": "pale-ember/effect", "version": 1, "stage": {"backdrop": "day"}}
        self.assertEqual(migrated(old)["stage"]["backdrop"], "noon")
        self.assertEqual(migrated({**old, "stage": {"backdrop": "night"}})["stage"]["backdrop"], "night")
        self.assertEqual(old["stage"]["backdrop"], "day", "what was read is left as it was")
