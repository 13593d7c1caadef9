"""The steps of the bench: what each promises, against closed forms and SciPy."""

import hashlib
import itertools
import unittest

import numpy as np
from scipy.ndimage import distance_transform_edt

from pale_ember.effect import EffectError
from pale_ember.effect.steps.flow import Flow, Obstacle, Source
from pale_ember.effect.values.colors import to_srgb
from pale_ember.textures.making.build import make
from pale_ember.textures.making.edges import distance
from pale_ember.textures.making.flow import FlowRun, flow_frames
from pale_ember.textures.making.lines import draw_lines
from pale_ember.textures.prepared import prepared
from pale_ember.textures.reading import Raw

from .making_case import light, texture, with_files

STROKE = {"points": "-0.5,-0.5 0.2,0.1 0.4,0.6,0.4", "size": 0.1}
DRAWN = {"step": "strokes", "strokes": [STROKE]}
CLOUD = {"step": "cloud"}


class ShapeTest(unittest.TestCase):
    def test_shapes_leave_nothing_at_the_border(self):
        for step in (
            {"step": "shard"},
            {"step": "shard", "sides": 12, "uneven": 0},
            {"step": "crack"},
            {"step": "crack", "count": 12, "seed": 4},
            {"step": "scorch"},
            {"step": "scorch", "streaks": 1, "radius": 0.7},
            {"step": "bolt"},
            {"step": "bolt", "sway": 0.5, "glow": 1},
            DRAWN,
        ):
            for size in (16, 64, 129):
                whole = light(step, size=size)
                self.assertEqual(
                    max(edge.max() for edge in (whole[0], whole[-1], whole[:, 0], whole[:, -1])), 0.0, step
                )
                self.assertGreater(whole.max(), 0.3, step)

    def test_what_tiles_goes_on_to_tile(self):
        for steps in (
            ({"step": "grain", "across": 9},),
            (CLOUD, {"step": "sharpen", "amount": 2}),
            (CLOUD, {"step": "outline"}),
            (CLOUD, {"step": "relief", "height": 1}),
            (CLOUD, {"step": "swirl", "reach": 0.9}),
        ):
            whole = light(*steps, size=96)
            # Moved half round, what was the border looks as all else does.
            moved = np.roll(whole, (48, 48), (0, 1)).astype(float)
            for one in (moved, moved.T):
                jumps = np.abs(np.diff(one, axis=0)).mean(axis=1)
                self.assertLess(jumps[46:49].mean(), 2.5 * jumps.mean() + 1e-3, steps)

    def test_each_is_the_same_to_the_bit_and_another_with_another_seed(self):
        for step in ("shard", "crack", "scorch", "bolt", "grain", "rays", "flake", "cloud", "cells"):

            def digest(seed, step=step, **more):
                made = make(texture({"step": step, "seed": seed, **more}, size=48, frames=3))
                return [hashlib.sha256(one.tobytes()).hexdigest() for one in made.pixels]

            self.assertEqual(digest(1), digest(1), step)
            self.assertNotEqual(digest(1), digest(2), step)
            self.assertEqual(len(set(digest(1))), 1, step)
            self.assertEqual(len(set(digest(1, restless=True))), 3, f"{step} throws other dice in each frame")

    def test_cracks_and_bolts_grow(self):
        for step in ("crack", "bolt"):
            steps = {
                "step": step,
                "grown": {"curve": [{"x": 0, "y": 0, "ease": "linear"}, {"x": 1, "y": 1, "ease": "linear"}]},
            }
            made = make(texture(steps, size=64, frames=6)).pixels[..., 3]
            self.assertEqual(made[0].max(), 0.0)
            for before, after in itertools.pairwise(made):
                # What is there stays there.
                self.assertGreaterEqual((after - before).min(), -0.35)
                self.assertGreater(after.sum(), before.sum())

    def test_a_shard_is_as_large_as_its_corners(self):
        # A square without any chance: its area is that of its corners, and its faces differ by what facets
        # say.
        whole = light(
            {"step": "shard", "sides": 4, "uneven": 0, "slender": 0, "facets": 0, "reach": 0.8}, size=256
        )
        self.assertAlmostEqual(float(whole.mean()) * 4, 2 * 0.8**2, delta=0.01)

    def test_grain_has_its_density(self):
        for density in (0.1, 0.5, 0.9):
            whole = light(
                {"step": "grain", "across": 64, "density": density, "uneven": 0, "round": False}, size=64
            )
            self.assertAlmostEqual(float((whole > 0.5).mean()), density, delta=0.03)


class DrawnTest(unittest.TestCase):
    def test_a_line_is_as_wide_as_it_says(self):
        found = draw_lines(200, np.array([[-0.6, 0.0, 0.1, 1.0, 0.6, 0.0, 0.1, 1.0]]), 0.0)
        self.assertAlmostEqual(float(found[:, 100].sum()) / 100, 0.2, delta=0.01)
        self.assertEqual(found[100, 5], 0.0)
        # Round ends: half a disc each.
        area = float(found.sum()) * (2 / 200) ** 2
        self.assertAlmostEqual(area, 1.2 * 0.2 + np.pi * 0.1**2, delta=0.01)

    def test_a_line_thinner_than_a_pixel_is_fainter(self):
        sums = [
            draw_lines(64, np.array([[-0.5, 0.01, w, 1.0, 0.5, 0.01, w, 1.0]]), 0.0).sum()
            for w in (0.004, 0.008)
        ]
        self.assertAlmostEqual(sums[1] / sums[0], 2.0, delta=0.05)

    def test_strokes_turn_mirror_and_erase(self):
        one = light(DRAWN, size=80)
        six = light({**DRAWN, "symmetry": 4}, size=80)
        np.testing.assert_allclose(six, np.rot90(six), atol=1e-5)
        self.assertTrue((six >= one - 1e-6).all())
        both = light({**DRAWN, "mirror": True}, size=80)
        np.testing.assert_allclose(both, both[:, ::-1], atol=1e-5)
        gone = light(
            {
                **DRAWN,
                "strokes": [
                    STROKE,
                    {"points": "-0.5,-0.5 0.2,0.1 0.4,0.6", "size": 0.3, "softness": 0, "erase": True},
                ],
            },
            size=80,
        )
        self.assertEqual(gone.max(), 0.0)

    def test_no_drawing_takes_longer_than_can_be_waited_for(self):
        many = " ".join(f"{0.001 * (i % 900):.3f},0" for i in range(4000))
        with self.assertRaises(EffectError) as wrong:
            texture({"step": "strokes", "symmetry": 24, "strokes": [{"points": many}] * 3})
        self.assertEqual(wrong.exception.place, "textures[0].build.steps[0].strokes")
        with self.assertRaises(EffectError):
            texture({"step": "dot"}, size=1024, build={"order": [0] * 200})

    def test_pressure_thins_the_stroke_and_what_is_wrong_is_said(self):
        def drawn(pressure):
            return light(
                {
                    "step": "strokes",
                    "strokes": [{"points": f"-0.5,0,{pressure} 0.5,0,{pressure}", "size": 0.2}],
                },
                size=64,
            ).sum()

        self.assertLess(drawn(0.2), 0.6 * drawn(1))
        for points, place in (
            ("0,0 1", "points[1]"),
            ("0,0 x,1", "points[1]"),
            ("0,9", "points[0]"),
            ("0,0,2", "points[0]"),
            (7, "points"),
        ):
            with self.assertRaises(EffectError) as wrong:
                texture({"step": "strokes", "strokes": [{"points": points}]})
            self.assertEqual(wrong.exception.place, f"textures[0].build.steps[0].strokes[0].{place}")


class ChangeTest(unittest.TestCase):
    def test_distances_are_exact_and_go_around(self):
        rng = np.random.default_rng(3)
        inside = np.kron(rng.random((8, 8)) > 0.6, np.ones((6, 6))) > 0
        found = distance(inside.astype(np.float32), 0.5, 24)
        wide = np.tile(inside, (3, 3))
        away = np.where(wide, distance_transform_edt(wide), distance_transform_edt(~wide))[48:96, 48:96]
        np.testing.assert_allclose(found, away - 0.5, atol=0.01)

    def test_an_outline_runs_along_the_border(self):
        ring = light(
            {"step": "dot", "radius": 0.6, "softness": 0.2},
            {"step": "outline", "width": 0.08, "softness": 0},
            size=256,
        )
        y, x = np.mgrid[0:256, 0:256]
        far = np.hypot(x - 127.5, y - 127.5) / 128
        self.assertLess(ring[far < 0.4].max(), 1 / 255)
        middle = float((ring * far).sum() / ring.sum())
        self.assertAlmostEqual(middle, 0.54, delta=0.01)
        self.assertAlmostEqual(float(ring.sum()) / (2 * np.pi * middle * 128) / 128, 0.08, delta=0.01)

    def test_polar_and_back_is_what_it_was(self):
        steps = (
            {"step": "gradient", "turn": 90},
            {"step": "cloud", "across": 2, "octaves": 1, "blend": "multiply"},
        )
        plain = light(CLOUD | {"across": 2, "octaves": 1}, size=128)
        again = light(
            CLOUD | {"across": 2, "octaves": 1}, {"step": "polar"}, {"step": "polar", "back": True}, size=128
        )
        # Near the middle there are few pixels to keep the lowest rows.
        self.assertLess(np.abs(again - plain)[4:100].mean(), 0.02)
        self.assertEqual(light(*steps, size=16).shape, (16, 16))

    def test_rows_become_rings(self):
        whole = light({"step": "gradient"}, {"step": "polar"}, size=128)
        y, x = np.mgrid[0:128, 0:128]
        far = np.hypot(x - 63.5, y - 63.5) / 64
        inner = far < 0.95
        np.testing.assert_allclose(whole[inner], far[inner], atol=0.03)

    def test_a_kaleidoscope_comes_round(self):
        whole = light(CLOUD, {"step": "kaleidoscope", "count": 4}, size=96)
        np.testing.assert_allclose(whole, np.rot90(whole), atol=1e-4)
        np.testing.assert_allclose(whole, whole[::-1], atol=1e-4)

    def test_a_swirl_leaves_what_is_beyond_its_reach_and_turns_the_middle(self):
        plain, turned = (
            light(CLOUD, size=96),
            light(CLOUD, {"step": "swirl", "turn": 90, "reach": 0.6}, size=96),
        )
        y, x = np.mgrid[0:96, 0:96]
        far = np.hypot(x - 47.5, y - 47.5) / 48
        np.testing.assert_allclose(plain[far > 0.62], turned[far > 0.62], atol=1e-5)
        self.assertGreater(np.abs(plain - turned)[far < 0.4].mean(), 0.03)

    def test_changes_are_blended_too(self):
        plain = light({"step": "gradient"})
        both = light({"step": "gradient"}, {"step": "invert", "blend": "multiply"})
        np.testing.assert_allclose(both, plain * (1 - plain), atol=1e-5)

    def test_a_step_that_is_off_is_left_out(self):
        np.testing.assert_array_equal(light(CLOUD, {"step": "invert", "on": False}), light(CLOUD))

    def test_colours_go_along_with_what_is_moved(self):
        steps = (
            {"step": "gradient", "turn": 90},
            {"step": "color", "gradient": [[0, "#ff0000"], [1, "#0000ff"]]},
            {"step": "swirl", "turn": 180},
        )
        made = make(texture(*steps, size=64)).pixels[0]
        # In the middle left and right have changed places, colours with them.
        self.assertGreater(made[32, 26, 2], made[32, 38, 2])
        self.assertGreater(made[32, 26, 3], made[32, 38, 3])


class FinishTest(unittest.TestCase):
    DISC = ({"step": "dot", "softness": 0.8}, {"step": "color", "gradient": [[0, "#205080"], [1, "#ffd0a0"]]})

    def test_premultiplied_and_back_is_the_same(self):
        plain = make(texture(*self.DISC, size=48))
        multiplied = make(texture(*self.DISC, {"step": "premultiply"}, size=48))
        np.testing.assert_allclose(
            multiplied.pixels[..., :3], plain.pixels[..., :3] * plain.pixels[..., 3:], atol=1e-6
        )
        self.assertTrue(multiplied.premultiplied)
        back = make(texture(*self.DISC, {"step": "premultiply"}, {"step": "unpremultiply"}, size=48))
        covered = plain.pixels[0, ..., 3] > 0.001
        np.testing.assert_allclose(back.pixels[0][covered], plain.pixels[0][covered], atol=1e-3)
        # Particles look the same whichever way it is kept.
        a, b = prepared(texture(*self.DISC), plain), prepared(texture(*self.DISC), multiplied)
        self.assertLessEqual(np.abs(a.pixels.astype(int) - b.pixels).max(), 1)

    def test_any_strength_of_premultiplying_looks_the_same_and_none_of_it_is_none(self):
        plain = make(texture(*self.DISC, size=48, frames=3))
        for strength in (0, 0.4, {"curve": [[0, 0], [0.4, 0], [0.6, 1], [1, 1]]}):
            made = make(texture(*self.DISC, {"step": "premultiply", "strength": strength}, size=48, frames=3))
            self.assertEqual(made.premultiplied, strength != 0)
            a, b = prepared(texture(*self.DISC), plain), prepared(texture(*self.DISC), made)
            self.assertLessEqual(np.abs(a.pixels.astype(int) - b.pixels).max(), 1)

    def test_what_moves_and_what_is_trimmed_brings_no_dark_rim_from_under_the_clear(self):
        pixels = np.zeros((64, 64, 4), np.uint8)
        pixels[20:40, 24:44] = (200, 160, 40, 255)
        bright = np.array([200, 160, 40]) / 255
        files = {"f.png": Raw(pixels, False, True)}
        moves = (
            {"step": "swirl", "turn": 37},
            {"step": "warp", "amount": 0.1},
            {"step": "kaleidoscope", "turn": 11},
            {"step": "swirl", "turn": 50, "strength": 0.4},
        )
        for step, build in (*((one, {}) for one in moves), ({"step": "blur", "on": False}, {"trim": True})):
            made = with_files(
                texture({"step": "picture", "files": ["f.png"]}, step, size=64, build=build), files
            ).pixels[0]
            rim = (made[..., 3] > 0.02) & (made[..., 3] < 0.98)
            self.assertGreater(rim.sum(), 10)
            np.testing.assert_allclose(
                to_srgb(made[rim][:, :3]),
                np.broadcast_to(bright, (rim.sum(), 3)),
                atol=0.02,
                err_msg=str(step),
            )

    def test_colours_bleed_under_clear_borders_and_nothing_else_changes(self):
        colored = (
            {"step": "gradient", "turn": 90},
            {"step": "color", "gradient": [[0, "#ff0000"], [1, "#0000ff"]]},
            {"step": "dot", "radius": 0.5, "softness": 0, "blend": "multiply"},
        )
        plain, bled = (make(texture(*colored, *more, size=64)) for more in ((), ({"step": "bleed"},)))
        np.testing.assert_array_equal(plain.pixels[..., 3], bled.pixels[..., 3])
        sure = plain.pixels[0, ..., 3] >= 0.5
        np.testing.assert_allclose(plain.pixels[0][sure], bled.pixels[0][sure], atol=1e-4)
        # Just outside the colours are those just inside; left red, right blue.
        self.assertGreater(bled.pixels[0, 32, 12, 0], bled.pixels[0, 32, 12, 2])
        self.assertGreater(bled.pixels[0, 32, 52, 2], bled.pixels[0, 32, 52, 0])
        self.assertTrue(np.isfinite(bled.pixels).all())


class FlowRoundThingsTest(unittest.TestCase):
    def test_nothing_is_inside_an_obstacle_and_what_rises_goes_round_it(self):
        block = Obstacle(at=(0.0, 0.25), extents=(0.3, 0.12), round=False)
        step = Flow(kind="puff", rise=4, height=-0.4, stir=0, spread=0, seconds=1.2, obstacles=(block,))
        run = FlowRun(step, 64, 1)
        before = float(run.gas.smoke.sum())
        for _ in range(30):
            run.advance(1 / 30)
            inside = run._open < 0.01
            self.assertTrue(inside.any())
            self.assertEqual(run.gas.smoke[inside].max(), 0.0)
            self.assertAlmostEqual(run.gas.smoke.sum() / before, 1.0, delta=0.01)
        # Through the block goes next to nothing beside what goes round it.
        fast = np.abs(run.gas.v).max()
        self.assertLess(np.abs(run.gas.v[inside]).max(), 0.35 * fast)
        free = flow_frames(step.model_copy(update={"obstacles": ()}), 64, 8, 1)[-1].smoke
        stopped = flow_frames(step, 64, 8, 1)[-1].smoke
        above = np.s_[:20, 24:40]
        self.assertLess(stopped[above].sum(), 0.6 * free[above].sum() + 1e-6)

    def test_gas_comes_from_each_source(self):
        step = Flow(
            kind="puff",
            source=0.1,
            height=-0.6,
            stir=0,
            sources=(Source(at=(0.5, 0.4), radius=0.2, smoke=0.5),),
        )
        first = flow_frames(step, 64, 2, 1)[0].smoke
        y, x = np.mgrid[0:64, 0:64]
        x, y = (x + 0.5) / 32 - 1, 1 - (y + 0.5) / 32
        near = np.hypot(x - 0.5, y - 0.4) < 0.1
        self.assertAlmostEqual(float(first[near].mean()), 0.5, delta=0.05)
        self.assertEqual(first[np.hypot(x + 0.6, y - 0.4) < 0.2].max(), 0.0)


if __name__ == "__main__":
    unittest.main()
