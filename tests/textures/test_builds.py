"""Builds: what each step promises, whatever its numbers."""

import hashlib
import time
import unittest
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from pale_ember.effect import EffectError
from pale_ember.effect.steps import CHANGERS, FINISHERS, MAKERS, STEPS
from pale_ember.effect.steps.drawn import Stroke
from pale_ember.effect.steps.flow import Flow, Obstacle, Source
from pale_ember.effect.steps.pictures import Picture
from pale_ember.effect.values.colors import hex_to_linear
from pale_ember.textures.library import shipped_textures
from pale_ember.textures.making.build import Making, make
from pale_ember.textures.making.changers import CHANGERS as CHANGING
from pale_ember.textures.making.finishers import FINISHERS as FINISHING
from pale_ember.textures.making.flow import FlowRun, flow_frames
from pale_ember.textures.making.makers import MAKERS as MAKING
from pale_ember.textures.making.movers import MOVERS as MOVING
from pale_ember.textures.prepared import prepared
from pale_ember.textures.reading import Raw

from .making_case import light, texture


class StepTest(unittest.TestCase):
    def test_each_step_is_known_where_it_is_made(self):
        self.assertEqual({*MAKING, Flow, Picture}, set(MAKERS))
        self.assertEqual({*CHANGING, *MOVING}, set(CHANGERS))
        self.assertEqual(set(FINISHING), set(FINISHERS))
        self.assertEqual(len(STEPS), len(MAKERS) + len(CHANGERS) + len(FINISHERS))

    def test_what_tiles_matches_at_its_edges_and_in_its_slopes(self):
        for steps in (
            ({"step": "cloud"},),
            ({"step": "cloud", "ridges": 0.7, "evolve": 0.3, "across": 3},),
            ({"step": "cells"},),
            ({"step": "cells", "walls": 1, "across": 4},),
            ({"step": "cloud"}, {"step": "blur", "radius": 0.1}),
            ({"step": "cloud"}, {"step": "warp", "amount": 0.3}),
            ({"step": "gradient"}, {"step": "tile", "margin": 0.4}),
            ({"step": "rays"}, {"step": "gradient", "turn": 70, "blend": "add"}, {"step": "tile"}),
        ):
            whole = light(*steps, size=128).astype(float)
            for one in (whole, whole.T):
                # Across the border neighbours differ as they do inside, and so do their differences.
                inside, across = np.abs(np.diff(one, axis=0)), np.abs(one[0] - one[-1])
                self.assertLessEqual(across.max(), inside.max() + 1 / 255, steps)
                again = np.concatenate([one[-2:], one[:2]])
                self.assertLessEqual(
                    np.abs(np.diff(again, 2, axis=0)).max(),
                    np.abs(np.diff(one, 2, axis=0)).max() + 2 / 255,
                    steps,
                )

    def test_a_fade_leaves_nothing_at_the_border(self):
        for around in (True, False):
            whole = light({"step": "cloud"}, {"step": "fade", "margin": 0.2, "round": around}, size=64)
            for edge in (whole[0], whole[-1], whole[:, 0], whole[:, -1]):
                self.assertEqual(edge.max(), 0.0)
            self.assertGreater(whole.max(), 0.3)

    def test_normals_are_of_length_1_and_lean_away_from_the_middle(self):
        made = make(texture({"step": "dot"}, {"step": "normals", "height": 1.5}, size=64))
        np.testing.assert_allclose(np.linalg.norm(made.normals, axis=3), 1.0, atol=1e-3)
        self.assertGreater(made.normals[0, 32, 48, 0], 0.2)
        self.assertLess(made.normals[0, 32, 16, 0], -0.2)
        self.assertGreater(made.normals[0, 16, 32, 1], 0.2)
        packed = prepared(texture({"step": "dot"}), made).normals[..., :3] / 127.5 - 1
        np.testing.assert_allclose(np.linalg.norm(packed, axis=3), 1.0, atol=0.02)

    def test_levels_threshold_invert_and_masks_do_what_they_say(self):
        slope = light({"step": "gradient"}).astype(float)
        np.testing.assert_allclose(light({"step": "gradient"}, {"step": "invert"}), 1 - slope, atol=1e-6)
        np.testing.assert_allclose(
            light({"step": "gradient"}, {"step": "levels", "black": 0.25, "white": 0.75, "bend": 2}),
            np.clip((slope - 0.25) * 2, 0, 1) ** 2,
            atol=1e-5,
        )
        hard = light({"step": "gradient"}, {"step": "threshold", "at": 0.5, "softness": 0})
        self.assertEqual(set(np.unique(hard)), {0.0, 1.0})
        half = light({"step": "gradient"}, {"step": "invert", "strength": 0.5})
        np.testing.assert_allclose(half, 0.5, atol=1e-6)
        masked = make(
            texture(
                {"step": "gradient"},
                {"step": "pack", "channel": "red"},
                {"step": "dot", "radius": 3, "softness": 0},
                {"step": "mask", "channel": "red"},
            )
        ).pixels[0]
        np.testing.assert_allclose(masked[..., 3], masked[..., 0], atol=1e-6)

    def test_four_masks_are_packed_and_colours_follow_the_gradient(self):
        steps = []
        for channel, turn in (("red", 0), ("green", 90), ("blue", 180), ("alpha", 270)):
            steps += [{"step": "gradient", "turn": turn}, {"step": "pack", "channel": channel}]
        made = make(texture(*steps, data=True)).pixels[0]
        for i, turn in enumerate((0, 90, 180, 270)):
            np.testing.assert_allclose(made[..., i], light({"step": "gradient", "turn": turn}), atol=1e-6)
        colored = make(
            texture(
                {"step": "gradient"}, {"step": "color", "gradient": [[0, "#102030"], [1, "#ffcc00"]]}, size=64
            )
        ).pixels[0]
        np.testing.assert_allclose(colored[0, 0, :3], hex_to_linear("#ffcc00"), atol=0.02)
        np.testing.assert_allclose(colored[-1, 0, :3], hex_to_linear("#102030"), atol=0.02)

    def test_numbers_may_go_along_the_frames(self):
        made = make(texture({"step": "dot", "radius": {"curve": [[0, 0.2], [1, 0.9]]}}, frames=5)).pixels[
            ..., 3
        ]
        sums = made.sum(axis=(1, 2)).tolist()
        self.assertEqual(sums, sorted(sums))
        self.assertGreater(sums[-1], 5 * sums[0])

    def test_another_seed_is_another_picture_and_the_same_the_same_bytes_in_any_thread(self):
        steps = (
            {"step": "flow", "seconds": 0.5, "loop": True},
            {"step": "warp"},
            {"step": "cells", "blend": "add"},
            {"step": "rays"},
            {"step": "normals"},
        )

        def digest(seed=1):
            made = make(texture(*steps, frames=3, seed=seed))
            return hashlib.sha256(
                made.pixels.tobytes() + made.normals.tobytes() + made.motion.tobytes()
            ).hexdigest()

        with ThreadPoolExecutor(3) as pool:
            found = set(pool.map(lambda _: digest(), range(5)))
        self.assertEqual(found, {digest()})
        self.assertNotEqual(digest(2), digest())

    def test_what_is_shipped_is_whole(self):
        names = [one.name for one in shipped_textures()]
        self.assertEqual(len(names), len(set(names)))
        self.assertGreaterEqual(len(names), 12)
        for one in shipped_textures():
            if one.frames > 4:
                one = one.model_copy(update={"frames": 3, "build": one.build.model_copy(update={"size": 48})})
            made = make(one)
            self.assertTrue(np.isfinite(made.pixels).all(), one.name)
            self.assertGreater(made.pixels[..., 3].max(), 0.2, one.name)
            if not one.wrap and one.name not in ("ink", "masks"):
                for edge in (
                    made.pixels[:, 0, :, 3],
                    made.pixels[:, -1, :, 3],
                    made.pixels[:, :, 0, 3],
                    made.pixels[:, :, -1, 3],
                ):
                    self.assertLess(edge.max(), 2 / 255, one.name)

    def test_making_is_told_of_and_can_be_given_up(self):
        told = []
        self.assertIsNotNone(make(texture({"step": "flow"}, frames=6), told.append))
        self.assertEqual(told, sorted(told))
        self.assertAlmostEqual(told[-1], 1.0)
        self.assertIsNone(make(texture({"step": "flow"}, frames=6), lambda share: share > 0.4))

    def test_what_is_too_large_is_refused_in_a_sentence(self):
        with self.assertRaises(EffectError) as wrong:
            texture({"step": "dot"}, size=1024, frames=64)
        self.assertEqual(wrong.exception.place, "textures[0].build.size")


class FlowTest(unittest.TestCase):
    def test_what_flows_neither_gathers_nor_thins_and_loses_no_smoke(self):
        for kind in ("puff", "ring"):
            run = FlowRun(Flow(kind=kind, spread=0, thinning=0, cooling=0.5), 64, 1)
            before = run.gas.smoke.sum()
            for _ in range(20):
                run.advance(1 / 30)
                run.gas.project()
                gas = run.gas
                steep = np.abs(np.roll(gas.u, -1, 1) - np.roll(gas.u, 1, 1)).max() / 2
                self.assertLess(np.abs(gas.divergence()).max(), 0.01 * max(steep, 1e-3), kind)
                self.assertAlmostEqual(gas.smoke.sum() / before, 1.0, delta=0.01)

    def test_heat_rises_and_a_spread_drives_apart(self):
        def middle(**more):
            frame = flow_frames(Flow(seconds=1.0, stir=0, **more), 64, 8, 1)[-1]
            rows = np.arange(64)[:, None]
            height = (frame.smoke * rows).sum() / frame.smoke.sum()
            return height, (frame.smoke > 0.05).sum()

        self.assertLess(middle(rise=3, height=0)[0], middle(rise=0, height=0)[0] - 3)
        self.assertGreater(middle(rise=0, height=0, spread=3)[1], 1.3 * middle(rise=0, height=0, spread=0)[1])

    def test_a_loop_closes(self):
        step = Flow(kind="flame", height=-0.7, rise=4, draft=0.6, loop=True, ahead=0.5, seconds=1.0)
        frames = flow_frames(step, 48, 12, 3)
        steps = [np.abs(frames[i].heat - frames[i - 1].heat).mean() for i in range(12)]
        # From the last to the first is a step like all others.
        self.assertLess(steps[0], 1.6 * max(steps[1:]))
        # What would come behind the last frame is the first, to 2 of 255.
        whole = FlowRun(step, 48, 3)
        found = []
        each = step.seconds / 12
        for _ in range(6):
            whole.advance(step.ahead / 6)
        for i in range(13):
            if i:
                whole.advance(each)
            found.append(whole.frame())
        self.assertLess(np.abs(found[12].heat - frames[0].heat).max(), 2 / 255)

    def test_the_motion_says_where_things_go(self):
        made = make(
            texture(
                {"step": "flow", "kind": "puff", "rise": 3, "spread": 0, "stir": 0.3, "seconds": 0.6},
                size=64,
                frames=8,
            )
        )
        smoke, motion = made.pixels[..., 3], made.motion
        warm = smoke[4] > 0.3
        self.assertGreater(motion[4][warm][:, 1].mean(), 0.003, "it rises")
        # Carried along its motion a frame comes nearer to the next one than it is.
        y, x = np.mgrid[0:64, 0:64].astype(float)
        from pale_ember.textures.making.canvas import sampled

        carried = sampled(smoke[4], x - motion[4][..., 0] * 64, y + motion[4][..., 1] * 64)
        self.assertLess(np.abs(carried - smoke[5]).mean(), 0.6 * np.abs(smoke[4] - smoke[5]).mean())

    def test_sheets_are_made_in_time(self):
        start = time.perf_counter()
        flow_frames(Flow(), 64, 16, 1)
        self.assertLess(time.perf_counter() - start, 60.0)


def numbers(rule):
    low, high = max(rule.hard[0], -1e4), min(rule.hard[1], 1e4)
    return st.floats(low, high, allow_nan=False).map(lambda x: min(max(x, low), high))


def any_value(rule):
    one = numbers(rule)
    keys = st.lists(st.tuples(st.floats(0, 1), one).map(list), min_size=1, max_size=3)
    return st.one_of(
        one, st.tuples(one, one).map(lambda p: {"spread": list(p)}), keys.map(lambda k: {"curve": k})
    )


def any_points():
    one = st.floats(-4, 4, allow_nan=False).map(lambda x: round(x, 3))
    return st.lists(
        st.tuples(one, one, st.floats(0, 1)).map(lambda p: f"{p[0]},{p[1]},{round(p[2], 2)}"), max_size=5
    ).map(" ".join)


def any_part(kind):
    """Return any part inside a step, such as a stroke or an obstacle."""
    fields = {}
    for name, rule in kind.rules().items():
        if rule.kind == "number":
            fields[name] = numbers(rule)
        elif rule.kind == "vec2":
            fields[name] = st.tuples(numbers(rule), numbers(rule)).map(list)
        elif rule.kind == "flag":
            fields[name] = st.booleans()
        elif rule.kind == "points":
            fields[name] = any_points()
    return st.fixed_dictionaries({}, optional=fields)


def any_step(kind):
    fields = {
        name: st.lists(any_part(part), max_size=3)
        for name, part in PARTS.items()
        if name in kind.model_fields
    }
    for name, rule in kind.rules().items():
        if name == "seconds" or name == "ahead":
            fields[name] = st.floats(0.06, 0.5)
        elif rule.kind == "value":
            fields[name] = any_value(rule)
        elif rule.kind == "number":
            fields[name] = numbers(rule)
        elif rule.kind == "integer":
            fields[name] = st.integers(int(rule.hard[0]), int(min(rule.hard[1], 40)))
        elif rule.kind == "flag":
            fields[name] = st.booleans()
        elif rule.kind == "choice":
            fields[name] = st.sampled_from([str(one) for one in rule.choices])
        elif rule.kind == "pictures":
            fields[name] = st.lists(st.sampled_from(list(FILES)), max_size=3)
        elif rule.kind == "stops":
            stop = st.tuples(st.floats(0, 1), st.sampled_from(["#000000", "#ff8040", "#ffffff"])).map(list)
            fields[name] = st.lists(stop, min_size=1, max_size=3)
    return st.fixed_dictionaries({}, optional=fields).map(
        lambda found: {"step": kind.default_of("step"), **found}
    )


PARTS = {"strokes": Stroke, "sources": Source, "obstacles": Obstacle}
FILES = {
    "grey": Raw(np.full((3, 7, 4), 90, np.uint8), False, False),
    "bright": Raw(np.full((9, 5, 4), 7.5, np.float32), True, True),
    "gone": None,
}
QUICK = [kind for kind in STEPS.values() if kind is not Flow]


class RandomBuildTest(unittest.TestCase):
    @settings(max_examples=400, deadline=None, suppress_health_check=list(HealthCheck))
    @given(
        st.lists(st.one_of(*(any_step(kind) for kind in QUICK)), max_size=6),
        st.integers(4, 24),
        st.integers(0, 3),
        st.booleans(),
        st.fixed_dictionaries(
            {
                "order": st.lists(st.integers(0, 5), max_size=4),
                "trim": st.booleans(),
                "padding": st.integers(0, 4),
            }
        ),
    )
    def test_no_build_breaks(self, steps, size, frames, data, build):
        self.look(steps, size, frames, data, build)

    @settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
    @given(any_step(Flow), st.integers(4, 20), st.integers(0, 4))
    def test_no_flow_breaks(self, step, size, frames):
        self.look([step, {"step": "normals"}], size, frames, False)

    def look(self, steps, size, frames, data, build=None):
        try:
            entry = texture(*steps, size=size, frames=frames, data=data, build=build)
        except EffectError:
            return
        made = make(entry, how=Making(files={name: raw for name, raw in FILES.items() if raw is not None}))
        self.assertTrue(np.isfinite(made.pixels).all())
        self.assertEqual(made.pixels.shape, (entry.count, size, size, 4))
        self.assertTrue((made.pixels[..., 3] >= 0).all() and (made.pixels[..., 3] <= 1).all())
        ready = prepared(entry, made)
        self.assertTrue(np.isfinite(ready.corners).all())
        if made.normals is not None:
            np.testing.assert_allclose(np.linalg.norm(made.normals, axis=3), 1.0, atol=1e-3)


if __name__ == "__main__":
    unittest.main()
