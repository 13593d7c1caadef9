"""Particles that are lit: roundness, normal maps, soft edges, light through smoke."""

import numpy as np

from pale_ember.drawing.environment import Environment
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.drawing.passes.shine import shine_of
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera, Light, Prop

from .light_case import FLAT, METRE, NOTHING, SIZE, WHITE, LightCase, particle, plate, texture


class LightTest(LightCase):
    def lit(self, yaw, pitch=0.0, **look):
        environment = Environment("noon", light=Light(yaw=yaw, pitch=pitch, sky=0))
        return self.light([(particle(size=2), {"lit": 1, "roundness": 1, **look})], environment=environment)

    def test_lit_from_the_left_mirrors_lit_from_the_right(self):
        left, right = self.lit(-70), self.lit(70)
        np.testing.assert_allclose(left, right[:, ::-1], atol=4e-3)
        row = left[SIZE[1] // 2]
        self.assertGreater(row[60, 0], row[100, 0] * 1.3)

    def test_what_is_not_lit_shines_by_itself(self):
        environment = Environment("night", light=Light(strength=0, sky=0))
        plain = self.middle([(particle(size=2, color=(0.3, 0.2, 0.1)), {}, WHITE)], environment=environment)
        dark = self.middle(
            [(particle(size=2, color=(0.3, 0.2, 0.1)), {"lit": 1}, WHITE)], environment=environment
        )
        np.testing.assert_allclose(plain[:3], (0.3, 0.2, 0.1), atol=2e-3)
        np.testing.assert_allclose(dark[:3], 0, atol=2e-3)

    def test_thin_smoke_before_the_light_is_lit_through(self):
        behind, front = Light(yaw=180, pitch=0, sky=0), Light(yaw=90, pitch=0, sky=0)
        look = {"lit": 1, "roundness": 0, "blend": "add"}
        thin = [
            self.middle(
                [(particle(size=2, opacity=0.1), look, WHITE)], environment=Environment("black", light=one)
            )[0]
            for one in (behind, front)
        ]
        self.assertGreater(thin[0], 2 * thin[1])

    def test_a_normal_map_counts(self):
        normals = np.zeros((1, 16, 16, 3), np.float32)
        normals[..., 0], normals[..., 2] = 0.8, 0.6
        worn = {"picture": texture([plate((1, 1, 1))], normals=normals)}
        levels = [
            self.middle(
                [(particle(size=2), {"lit": 1}, worn)],
                environment=Environment("black", light=Light(yaw=yaw, pitch=0, sky=0)),
            )[0]
            for yaw in (70, -70)
        ]
        self.assertGreater(levels[0], 3 * levels[1])

    def test_soften_is_0_at_the_floor_and_1_beyond_its_reach(self):
        camera = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=90, view=40)
        environment = Environment("black", grid=False, solid=True)
        for height, share in ((0.002, 0.0), (0.25, 0.5), (0.5, 1.0), (0.8, 1.0)):
            found = self.middle(
                [(particle((0, height, 0), size=1), {"soften": 0.5}, WHITE)],
                camera=camera,
                environment=environment,
            )
            self.assertAlmostEqual(found[0], share, delta=0.02, msg=height)

    def test_floor_and_props_hide_and_a_nudge_brings_before_them(self):
        environment = Environment(
            "black",
            grid=False,
            solid=True,
            props=(Prop(kind="box", position=(0, -0.5, 0.5), size=(1, 1, 1)),),
        )
        hidden = self.middle(
            [(particle(color=(0, 5, 0)), {}, WHITE)],
            environment=environment,
            camera=FLAT.model_copy(update={"pitch": 5}),
        )
        self.assertLess(hidden[1], 1)
        nudged = self.middle(
            [(particle(color=(0, 5, 0)), {"nudge": 1.5}, WHITE)],
            environment=environment,
            camera=FLAT.model_copy(update={"pitch": 5}),
        )
        self.assertAlmostEqual(nudged[1], 5, delta=0.05)
        plain = self.middle([(particle(color=(0, 5, 0), size=0.5), {}, WHITE)], environment=NOTHING)
        near = self.light([(particle(color=(0, 5, 0), size=0.5), {"nudge": 1.5}, WHITE)], environment=NOTHING)
        self.assertAlmostEqual((near[..., 1] > 1).sum() ** 0.5, 0.5 * METRE, delta=1.5)
        self.assertEqual(plain[1], 5)

    def test_shine_lights_the_floor_by_its_layers_mean_colour_and_only_so_far(self):
        camera = Camera(target=(0, 0, 0), distance=6, yaw=0, pitch=60, view=60)
        environment = Environment("black", grid=False, solid=True)
        rows = particle((0, 0.5, 0), size=0.3, color=(1, 0.5, 0), intensity=2)
        dark = self.light([(rows, {})], environment=environment, camera=camera)
        lit = (
            self.light([(rows, {"shine": 2, "shine_reach": 1.0})], environment=environment, camera=camera)
            - dark
        )
        self.assertGreater(lit[90, 80, 0], 0.03)
        np.testing.assert_allclose(lit[90, 80, 1] / lit[90, 80, 0], 0.5, atol=0.02)
        self.assertEqual(lit[90, 2, 0], 0)
        shine = shine_of(DrawnLayer("a", rows, Look(shine=1)))
        np.testing.assert_allclose(shine.place, (0, 0.5, 0), atol=1e-6)
        self.assertIsNone(shine_of(DrawnLayer("a", rows, Look())))

    def test_exposure_doubles_and_glow_can_be_none(self):
        from pale_ember.effect.values.colors import to_linear

        def shown(**more):
            rows = DrawnLayer("a", particle(size=9, color=(0.1, 0.1, 0.1)), Look(), wears=WHITE)
            picture = self.studio.picture(
                Moment(0.0, (rows,)), SIZE, FLAT, Environment("black", grid=False, **more)
            )
            return to_linear(np.asarray(picture)[80, 80, 0] / 255)

        self.assertAlmostEqual(float(shown(exposure=1.0) / shown(exposure=0.0)), 2.0, delta=0.05)
        self.assertAlmostEqual(float(shown(glow=0.0)), 0.1, delta=0.004)
