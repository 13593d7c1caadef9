import json
import os
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from pale_ember.demo import kiln_mouth
from pale_ember.drawing import DrawnLayer, Moment, moment_of
from pale_ember.drawing.camera import axes_of, eye_of, framed, project
from pale_ember.drawing.moment import bounds, in_order
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.drawing.pace import MEMORY, PATIENCE, SHARES, Pace
from pale_ember.drawing.wires import birthplace_wire
from pale_ember.effect import Camera, EffectError, save_effect
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.values.colors import to_linear, to_srgb
from pale_ember.simulation import Simulation
from pale_ember.simulation.births.shape_data import KINDS
from pale_ember.simulation.layout.instances import INSTANCE, instance_type

from ..building import single
from ..command_line import run_line

FLAT = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=0, view=40)


def rows(*particles):
    """Return instances: place, size, colour, opacity, intensity of each."""
    found = np.zeros(len(particles), INSTANCE)
    for row, (place, size, color, opacity, intensity) in zip(found, particles, strict=True):
        row["place"], row["size"], row["color"], row["opacity"], row["intensity"] = (
            place,
            size,
            color,
            opacity,
            intensity,
        )
    return found


def drawn(instances, blend="alpha", sort="far", order=0, name="a"):
    return DrawnLayer(name, instances, Look(blend=blend, sort=sort, order=order))


def one_layer(instances, blend="alpha", sort="far"):
    return Moment(0.0, (drawn(instances, blend, sort),))


def shown(light):
    """Return what a screen shows for light, 0…255: the shoulder and sRGB, in plain NumPy."""
    light = np.asarray(light, dtype=np.float64)

    def shoulder(v):
        u = np.maximum(v - 0.7, 0.0) / 0.3 * 0.55
        return np.minimum(v, 0.7) + 0.3 * (1.0 - 1.0 / (1.0 + u + u**2 / 2 + u**3 / 6))

    most = light.max(axis=-1, keepdims=True)
    together = light * shoulder(most) / np.maximum(most, 1e-9)
    bent = np.where(most <= 0.7, light, 0.4 * together + 0.6 * shoulder(light))
    return to_srgb(np.clip(bent, 0.0, 1.0)) * 255


class PaceTest(unittest.TestCase):
    """How large a moving picture is drawn, from how long the last ones took."""

    def test_it_goes_down_at_once_and_up_with_patience(self):
        pace = Pace(True, budget=20.0)
        for _ in range(3):
            # The first two make targets and shaders as well, and tell nothing.
            self.assertEqual(pace.share, 1.0)
            pace.took(90.0)
        low = pace.share
        self.assertLess(low, 0.6)
        for _ in range(PATIENCE):
            pace.took(2.0)
        self.assertEqual(pace.share, low)
        # What was too slow is tried again, but not soon.
        for count in range(2 * MEMORY):
            pace.took(2.0 * pace.share**2)
            self.assertTrue(pace.share < 1.0 or count > MEMORY / 2)
        self.assertEqual(pace.share, 1.0)

    def test_it_settles_instead_of_swinging_and_a_graphics_card_draws_in_full(self):
        for full in (15.0, 24.0, 33.0, 70.0, 300.0):
            pace, seen = Pace(True, budget=20.0), []
            for _ in range(400):
                pace.took(full * pace.share**2)
                seen.append(pace.share)
            # A larger one is tried now and then; else it stays.
            self.assertLess(np.count_nonzero(np.diff(seen[60:])), 6, full)
            often = max(set(seen), key=seen.count)
            self.assertTrue(full * often**2 <= 20.0 or often == SHARES[-1])
            card = Pace(False)
            card.took(full)
            self.assertEqual(card.share, 1.0)


class CameraTest(unittest.TestCase):
    def test_projection_puts_the_target_in_the_middle_and_keeps_scale(self):
        camera = Camera(target=(1, 2, 3), distance=5, yaw=33, pitch=20, view=50)
        at, before = project(camera, 800, 600, [camera.target])
        np.testing.assert_allclose(at[0], [400, 300], atol=1e-6)
        self.assertTrue(before[0])
        right, up, back = axes_of(camera)
        half = 5 * np.tan(np.radians(25))
        at, _ = project(
            camera, 800, 600, [np.array(camera.target) + up * half, np.array(camera.target) + right * half]
        )
        np.testing.assert_allclose(at, [[400, 0], [700, 300]], atol=1e-6)
        _, before = project(camera, 800, 600, [eye_of(camera) + back])
        self.assertFalse(before[0])

    def test_framing_keeps_a_box_in_the_picture(self):
        camera = framed(Camera(yaw=70, pitch=-30), [-3, 0, -1], [5, 2, 9])
        corners = [(x, y, z) for x in (-3, 5) for y in (0, 2) for z in (-1, 9)]
        at, before = project(camera, 600, 600, corners)
        self.assertTrue(before.all())
        self.assertTrue(((at >= 0) & (at <= 600)).all())


class PictureTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.studio = OffscreenRenderer()

    @classmethod
    def tearDownClass(cls):
        cls.studio.__exit__()

    def picture(self, moment, size=(120, 80), backdrop="black"):
        return np.asarray(self.studio.picture(moment, size, FLAT, backdrop, grid=False)).astype(int)

    def test_a_dot_is_where_and_how_large_it_should_be(self):
        image = self.picture(one_layer(rows(((0.5, 0.25, 0), 0.5, (1, 1, 1), 1, 1))), (300, 300))
        bright = np.argwhere(image[:, :, 0] > 128)
        middle = (bright.min(axis=0) + bright.max(axis=0)) / 2
        at, _ = project(FLAT, 300, 300, [(0.5, 0.25, 0)])
        np.testing.assert_allclose(middle[::-1] + 0.5, at[0], atol=1.0)
        wide = 0.5 * 300 / (2 * 4 * np.tan(np.radians(20)))
        self.assertAlmostEqual(np.ptp(bright[:, 1]) / wide, 0.73, delta=0.08)

    def test_alpha_covers_and_add_adds(self):
        for opacity in (0.25, 0.6, 1.0):
            for strength in (0.3, 1.0, 2.0):
                red = ((0, 0, 0), 12, (0.5, 0, 0), opacity, strength)
                green = ((0, 0, 0.5), 12, (0, 0.4, 0), opacity, strength)
                # The middle of a dot is as strong as it says, and so wide a dot has an even field about it.
                light = (
                    np.array([0.5, 0.0, 0.0]) * strength * opacity,
                    np.array([0.0, 0.4, 0.0]) * strength * opacity,
                )
                over = light[1] + light[0] * (1 - opacity)
                for blend, wanted in (("alpha", over), ("add", light[0] + light[1])):
                    found = self.picture(one_layer(rows(red, green), blend), (121, 81))[40, 60]
                    found, wanted = to_linear(found / 255), to_linear(shown(wanted) / 255)
                    np.testing.assert_allclose(
                        found, wanted, atol=0.02, err_msg=f"{blend} {opacity} {strength}"
                    )

    def test_a_layer_may_carry_only_what_differs(self):
        whole = rows(((0, 0, 0), 3, (0.2, 0.3, 0.4), 0.7, 1.5), ((0.4, 0, 0), 2, (0.2, 0.3, 0.4), 0.7, 1.5))
        wanted = self.picture(one_layer(whole))
        fixed = {"color": (0.2, 0.3, 0.4), "opacity": (0.7,), "intensity": (1.5,), "angle": (0.0,)}
        for left_out in ((), ("color",), ("angle", "opacity"), tuple(fixed)):
            kind = instance_type(tuple(name for name in INSTANCE.names if name not in left_out))
            some = np.zeros(2, kind)
            for name in kind.names:
                some[name] = whole[name]
            layer = DrawnLayer("a", some, Look(), {name: fixed[name] for name in left_out})
            np.testing.assert_allclose(self.picture(Moment(0.0, (layer,))), wanted, atol=1)

    def test_what_is_no_instance_is_refused(self):
        for wrong in (
            np.zeros((3, 11), np.float32),
            np.zeros(3, [("place", "f4", 3)]),
            np.zeros(3, [("place", "f8", 3), ("size", "f4", 2)]),
        ):
            with self.assertRaises(TypeError):
                DrawnLayer("a", wrong, Look())

    def test_on_nothing_a_picture_is_clear_and_laid_over_a_colour_it_is_the_same(self):
        moment = one_layer(rows(((0, 0, 0), 1.5, (0.5, 0.3, 0.2), 0.6, 1)))
        found = self.studio.pixels(moment, (120, 80), FLAT, None, False).astype(int)
        # Only glow reaches the corner, and that covers nothing.
        self.assertLessEqual(found[0, 0, :3].max(), 2)
        self.assertEqual(found[0, 0, 3], 0)
        self.assertAlmostEqual(found[40, 60, 3] / 255, 0.6, delta=0.02)
        over = self.picture(moment)
        np.testing.assert_allclose(found[40, 60, :3], over[40, 60], atol=2)
        image = self.studio.picture(moment, (120, 80), FLAT, None)
        self.assertEqual(image.mode, "RGBA")

    def test_sorts_and_orders(self):
        back = np.array([0, 0, 1.0])
        # Three in the order of their births: by depth they are in no order of age, nor in its reverse.
        born = rows(*(((0, 0, z), 1, (1, 1, 1), 1, 1) for z in (0, 1, -1)))
        z = {
            sort: list(in_order(one_layer(born, sort=sort).layers[0], back)["place"][:, 2])
            for sort in ("far", "old", "young", "none")
        }
        self.assertEqual(z, {"far": [-1, 0, 1], "old": [0, 1, -1], "young": [-1, 1, 0], "none": [0, 1, -1]})
        red = drawn(rows(((0, 0, 0), 3, (1, 0, 0), 1, 1)), order=5, name="r")
        green = drawn(rows(((0, 0, 0), 3, (0, 1, 0), 1, 1)), order=1, name="g")
        first, second = (self.picture(Moment(0.0, layers))[40, 60] for layers in ((red, green), (green, red)))
        np.testing.assert_array_equal(first, second)
        self.assertLess(first[1], 0.2 * first[0])

    def test_colours_are_shown_as_they_were_chosen_and_light_saturates_gently(self):
        flat = ((0, 0, 0), 12, (0.2158605, 0.2158605, 0.2158605), 1, 1)
        self.assertAlmostEqual(self.picture(one_layer(rows(flat)))[40, 60, 0], 128, delta=3)
        levels = [
            self.picture(one_layer(rows(((0, 0, 0), 12, (1, 1, 1), 1, k)), "add"))[40, 60, 0]
            for k in (0.5, 1, 2, 8)
        ]
        self.assertEqual(levels, sorted(set(levels)))

    def test_bad_sizes_are_refused(self):
        with self.assertRaises(EffectError):
            self.studio.picture(one_layer(rows()), (0, 10), FLAT, "night")

    def test_bounds_and_wires(self):
        moment = one_layer(rows(((1, 2, 3), 2, (1, 1, 1), 1, 1), ((-1, 0, 0), 0, (1, 1, 1), 1, 1)))
        low, high = bounds(moment)
        np.testing.assert_allclose((low, high), ([0, 1, 2], [2, 3, 4]))
        self.assertIsNone(bounds(one_layer(rows())))
        for kind in KINDS:
            effect = single(
                {
                    "birthplace.kind": kind,
                    "place.position": [0, 5, 0],
                    "emit.rate": 500,
                    "birthplace.angle": 0,
                }
            )
            lines = np.concatenate(birthplace_wire(effect.layers[0]))
            sim = Simulation(effect.edit("layers[0].launch.speed", 0))
            sim.seek(1)
            place = sim.particles("a").position
            # The lines bound what is born.
            self.assertTrue((place >= lines.min(axis=0) - 0.03).all(), kind)
            self.assertTrue((place <= lines.max(axis=0) + 0.03).all(), kind)


class CommandLineTest(unittest.TestCase):
    def test_render_stats_check_and_schema(self):
        with tempfile.TemporaryDirectory() as folder:
            file, picture = os.path.join(folder, "k.ember"), os.path.join(folder, "k.png")
            save_effect(kiln_mouth(), file)
            self.assertEqual(
                run_line("render", file, "--time", "1", "--size", "200x120", "-o", picture)[0], 0
            )
            with Image.open(picture) as image:
                self.assertEqual(image.size, (200, 120))
                pixels = np.asarray(image).astype(int)
            self.assertGreater(pixels[..., 0].max(), 240)
            again = os.path.join(folder, "again.png")
            run_line("render", file, "--time", "1", "--size", "200x120", "-o", again)
            self.assertEqual(Path(picture).read_bytes(), Path(again).read_bytes())
            status, out, _ = run_line("stats", file, "--until", "2", "--json")
            layers = json.loads(out)["layers"]
            sim = Simulation(kiln_mouth())
            sim.seek(2)
            self.assertEqual(
                [row["alive"] for row in layers], [sim.counts(row["id"])["alive"] for row in layers]
            )
            self.assertTrue(all(row["peak"] >= row["alive"] for row in layers))
            self.assertIn("Pale embers", run_line("stats", file)[1])
            Path(file).write_text(Path(file).read_text().replace('"rate"', '"rat"', 1))
            status, out, _ = run_line("check", file)
            self.assertEqual(status, 1)
            self.assertIn("emit.rat", out)
            self.assertEqual(run_line("render", file, "-o", picture)[0], 1)
        self.assertEqual(json.loads(run_line("schema")[1])["title"], "Pale Ember effect")

    def test_wrong_use_says_what_is_wrong(self):
        for words in (
            ("render", "x", "--size", "big", "-o", "y"),
            ("stats", "x", "--until", "nan"),
            ("render", "x"),
        ):
            status, _, err = run_line(*words)
            self.assertEqual(status, 2)
            self.assertTrue(err)
        self.assertEqual(run_line("stats", "/none.ember")[0], 1)

    def test_a_moment_shares_nothing_with_the_simulation(self):
        sim = Simulation(single())
        sim.seek(1)
        moment = moment_of(sim)
        before = moment.layers[0].instances.copy()
        sim.seek(2)
        np.testing.assert_array_equal(moment.layers[0].instances, before)


if __name__ == "__main__":
    unittest.main()
