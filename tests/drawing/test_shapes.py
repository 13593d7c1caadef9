"""Ribbons and meshes as pixels: against arithmetic for each pixel, and against closed forms."""

import unittest

import numpy as np

from pale_ember.drawing.camera import eye_of
from pale_ember.drawing.environment import Environment, lights_of
from pale_ember.drawing.moment import DrawnLayer, Moment
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera, Light
from pale_ember.simulation.meshes.drawn import body_of
from pale_ember.simulation.ribbons.joining import Joined

from .light_case import FLAT, METRE, NOTHING, SIZE, LightCase, particle, plate, texture

Z = np.float32(0)


def joined(rows, starts=None, cut=0.0):
    starts = np.array([0, len(rows)] if starts is None else starts, np.int32)
    count = len(starts) - 1
    return Joined(
        rows,
        starts,
        np.arange(len(rows), dtype=np.int32),
        np.arange(count, dtype=np.uint32),
        np.full(count, cut, np.float32),
    )


def line(points, size=0.2, **more):
    return np.concatenate([particle(point, size=size, **more) for point in points])


class ShapeCase(LightCase):
    def drawn(self, layer, environment=NOTHING, camera=FLAT, size=SIZE, **how):
        """Return the scene's light, (height, width, 4), from the top."""
        self.studio.pixels(Moment(how.pop("time", 0.0), (layer,)), size, camera, environment, **how)
        with self.studio.ctx:
            data = self.studio._renderers[""]._scene.read(components=4, dtype="f2")
        return np.frombuffer(data, np.float16).reshape(size[1], size[0], 4)[::-1].astype(np.float64)

    def ribbon(self, rows, look=None, wears=None, starts=None, **how):
        look = Look.model_validate({"draw": "ribbon", **(look or {})})
        return self.drawn(
            DrawnLayer("a", rows, look, wears=wears or {}, joined=joined(rows, starts, how.pop("cut", 0.0))),
            **how,
        )

    def mesh(self, rows, look=None, wears=None, **how):
        look = Look.model_validate({"draw": "mesh", **(look or {})})
        return self.drawn(DrawnLayer("a", rows, look, wears=wears or {}, body=body_of(look.mesh.mesh)), **how)


class RibbonTest(ShapeCase):
    def test_without_a_picture_it_is_soft_across(self):
        shown = self.ribbon(line([(-2, 0, 0), (0, 0, 0), (2, 0, 0)], 1.0, color=(0.5, 0.25, 1.0)))
        middle, column = SIZE[1] // 2, shown[:, SIZE[0] // 2]
        up = (middle - 0.5 - np.arange(SIZE[1])) / METRE * 2
        soft = np.clip(1 - up**2, 0, 1) ** 2
        np.testing.assert_allclose(column[:, 3], soft, atol=0.02)
        np.testing.assert_allclose(column[:, 2], soft, atol=0.02)
        np.testing.assert_allclose(column[:, 1], soft / 4, atol=0.02)

    def test_width_colour_and_opacity_go_from_point_to_point(self):
        rows = np.concatenate(
            [
                particle((-1, 0, 0), size=0.2, opacity=0.0, color=(1, 0, 0)),
                particle((1, 0, 0), size=1.0, opacity=1.0, color=(0, 0, 1)),
            ]
        )
        look = {"ribbon": {"smooth": 0}}
        shown = self.ribbon(rows, look, {"picture": texture([plate((1, 1, 1))])})
        for share in (0.25, 0.5, 0.75):
            x = int(SIZE[0] / 2 + (2 * share - 1) * METRE)
            column = shown[:, x]
            self.assertAlmostEqual(
                np.count_nonzero(column[:, 3] > 0.01) / METRE, 0.2 + 0.8 * share, delta=0.04
            )
            middle = column[SIZE[1] // 2]
            self.assertAlmostEqual(middle[3], share, delta=0.02)
            np.testing.assert_allclose(middle[:3], [share * (1 - share), 0, share * share], atol=0.02)

    def test_the_picture_lies_once_over_it_its_top_at_the_head(self):
        ramp = np.repeat(np.linspace(0, 1, 64, dtype=np.float32)[::-1, None], 8, axis=1)
        shown = self.ribbon(
            line([(-1, 0, 0), (-0.3, 0, 0), (1, 0, 0)], 0.4), wears={"picture": texture([ramp])}
        )
        row = shown[SIZE[1] // 2]
        for x in (-0.8, -0.2, 0.4, 0.9):
            self.assertAlmostEqual(row[int(SIZE[0] / 2 + x * METRE), 3], (x + 1) / 2, delta=0.04)

    def test_every_so_many_metres_it_lies_again_and_slides(self):
        half = np.zeros((32, 8), np.float32)
        half[16:] = 1.0
        look = {"texture": "t", "ribbon": {"lay": "repeat", "every": 0.5, "smooth": 0}}
        wears = {"picture": texture([half])}
        row = self.ribbon(line([(-1, 0, 0), (1, 0, 0)], 0.4), look, wears)[SIZE[1] // 2, :, 3] > 0.5
        flips = np.flatnonzero(
            np.diff(row[int(SIZE[0] / 2 - 0.98 * METRE) : int(SIZE[0] / 2 + 0.98 * METRE)].astype(int))
        )
        self.assertEqual(len(flips), 7)
        np.testing.assert_allclose(np.diff(flips), 0.25 * METRE, atol=1.5)
        # A quarter of a picture a second, after one.
        slid = (
            self.ribbon(line([(-1, 0, 0), (1, 0, 0)], 0.4), look | {"pan": [0, 0.25]}, wears, time=1.0)[
                SIZE[1] // 2, :, 3
            ]
            > 0.5
        )
        self.assertGreater(np.count_nonzero(slid != row), 20)
        # Along the ribbon, from its first point to its last; here to the right.
        np.testing.assert_array_equal(np.roll(row, round(0.125 * METRE))[70:90], slid[70:90])
        whole = (
            self.ribbon(line([(-1, 0, 0), (1, 0, 0)], 0.4), look | {"pan": [0, 0.25]}, wears, time=4.0)[
                SIZE[1] // 2, :, 3
            ]
            > 0.5
        )
        self.assertLess(np.count_nonzero(whole != row), 4)

    def test_two_ribbons_are_not_joined_and_what_is_thin_keeps_its_light(self):
        rows = np.concatenate(
            [line([(-1, 0.5, 0), (1, 0.5, 0)], 0.1), line([(-1, -0.5, 0), (1, -0.5, 0)], 0.1)]
        )
        shown = self.ribbon(rows, starts=[0, 2, 4])
        self.assertEqual(shown[SIZE[1] // 2, :, 3].max(), 0.0)
        light = [
            self.ribbon(line([(-1, 0, 0), (1, 0, 0)], wide), {"blend": "add"})[:, 60:100, 0].sum()
            for wide in (0.1, 0.01, 0.001)
        ]
        np.testing.assert_allclose(np.array(light) / light[0], [1.0, 0.1, 0.01], rtol=0.1)

    def test_it_is_lit_as_a_rounded_band_and_hidden_by_what_stands_before_it(self):
        environment = Environment("noon", grid=False, light=Light(yaw=0, pitch=90))
        shown = self.ribbon(
            line([(-2, 0, 0), (2, 0, 0)], 1.0),
            {"lit": 1.0, "roundness": 1.0},
            {"picture": texture([plate((1, 1, 1))])},
            environment=environment,
        )
        column = shown[:, SIZE[0] // 2, 1]
        at = SIZE[1] // 2
        # From above its upper side is the brighter one.
        self.assertGreater(column[at - 15], column[at + 15] * 1.5)
        soft = self.ribbon(
            line([(-2, 0, 0), (2, 0, 0)], 1.0),
            {"soften": 0.5},
            environment=Environment("grey", solid=True),
            camera=Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=30, view=40),
        )
        self.assertTrue(np.isfinite(soft).all())

    def test_a_tail_that_is_partly_gone_is_not_drawn(self):
        shown = self.ribbon(
            line([(-1, 0, 0), (0, 0, 0), (1, 0, 0)], 0.4),
            {"ribbon": {"smooth": 0}},
            {"picture": texture([plate((1, 1, 1))])},
            cut=0.5,
        )
        row = shown[SIZE[1] // 2, :, 3]
        self.assertEqual(row[int(SIZE[0] / 2 - 0.55 * METRE)], 0.0)
        self.assertGreater(row[int(SIZE[0] / 2 - 0.45 * METRE)], 0.9)

    def test_ribbons_lie_over_each_other_as_they_are_sorted(self):
        near, far = (
            line([(-1, 0, 0.5), (1, 0, 0.5)], 0.4, color=(1, 0, 0)),
            line([(0, -1, -0.5), (0, 1, -0.5)], 0.4, color=(0, 1, 0)),
        )
        wears = {"picture": texture([plate((1, 1, 1))])}
        for first, second in ((near, far), (far, near)):
            rows = np.concatenate([first, second])
            top = {
                sort: self.ribbon(rows, {"sort": sort}, wears, starts=[0, 2, 4])[
                    SIZE[1] // 2, SIZE[0] // 2, :3
                ]
                for sort in ("far", "old", "young")
            }
            np.testing.assert_allclose(top["far"], (1, 0, 0), atol=0.01)
            np.testing.assert_allclose(top["old"], second["color"][0], atol=0.01)
            np.testing.assert_allclose(top["young"], first["color"][0], atol=0.01)

    def test_overdraw_counts_it_once(self):
        rows = line([(-1, 0, 0), (0, 0, 0), (1, 0, 0)], 0.5)
        moment = Moment(0.0, (DrawnLayer("a", rows, Look(draw="ribbon"), joined=joined(rows)),))
        self.assertEqual(self.studio.overdraw(moment, SIZE, FLAT, Environment("grey"))[1].peak, 1)


class MeshTest(ShapeCase):
    def pixels(self, radius=0.5, camera=FLAT):
        """Return, for the pixels well inside a ball at the target, where they are and its normals there."""
        eye = np.array(eye_of(camera))
        y, x = np.mgrid[0 : SIZE[1], 0 : SIZE[0]]
        tan = np.tan(np.radians(camera.view) / 2)
        ways = np.stack(
            [
                (2 * (x + 0.5) / SIZE[0] - 1) * tan,
                (1 - 2 * (y + 0.5) / SIZE[1]) * tan,
                np.full(x.shape, -1.0),
            ],
            axis=2,
        )
        ways /= np.linalg.norm(ways, axis=2, keepdims=True)
        b = ways @ eye
        inside = b * b - (eye @ eye - radius**2)
        hit = inside > 0.02
        far = -b - np.sqrt(np.maximum(inside, 0))
        normal = (eye + ways * far[..., None]) / radius
        return hit, normal, ways

    def test_it_is_lit_pixel_by_pixel(self):
        environment = Environment("noon", grid=False, light=Light(yaw=-40, pitch=35))
        shown = self.mesh(
            particle(color=(0.8, 0.6, 0.4)), {"lit": 1.0, "mesh": {"mesh": "ball"}}, environment=environment
        )
        hit, normal, _ = self.pixels()
        lights = lights_of(environment)
        turned = normal @ np.array(lights.key_from) * 0.5 + 0.5
        sky = (normal[..., 1:2] * 0.5 + 0.5) * lights.sky + (0.5 - normal[..., 1:2] * 0.5) * lights.ground
        expected = (turned[..., None] ** 2 * lights.key + sky) * (0.8, 0.6, 0.4)
        np.testing.assert_allclose(shown[hit][:, :3], expected[hit], rtol=0.02, atol=0.02)
        np.testing.assert_allclose(shown[hit][:, 3], 1.0, atol=1e-3)

    def test_its_rim_glows_and_its_core_is_thin(self):
        look = {
            "blend": "add",
            "mesh": {"mesh": "ball", "faces": "outer", "core": 0.25, "rim": 2.0, "rim_power": 3.0},
        }
        shown = self.mesh(particle(color=(1.0, 0.5, 0.25), intensity=2.0, rim_light=2.0), look)
        hit, normal, ways = self.pixels()
        edge = np.clip(1 + (normal * ways).sum(axis=2), 0, 1) ** 3
        expected = 2.0 * (0.25 + 0.75 * edge + 2.0 * edge)[..., None] * (1.0, 0.5, 0.25)
        np.testing.assert_allclose(shown[hit][:, :3], expected[hit], rtol=0.05, atol=0.03)

    def test_it_is_stretched_turned_and_sized(self):
        half = np.sqrt(0.5)
        for turn, wide, high in (((0, 0, 0, 1), 1.0, 0.5), ((0, 0, half, half), 0.5, 1.0)):
            shown = (
                self.mesh(
                    particle(size=(0.5, 0.5), turn=turn, stretch=(2, 1, 0.02)), {"mesh": {"mesh": "box"}}
                )[..., 3]
                > 0.5
            )
            self.assertAlmostEqual(shown.any(axis=0).sum() / METRE, wide, delta=0.04)
            self.assertAlmostEqual(shown.any(axis=1).sum() / METRE, high, delta=0.04)
        shown = self.mesh(particle(size=(0.4, 0.8)), {"mesh": {"mesh": "box"}})[..., 3] > 0.5
        self.assertAlmostEqual(shown.any(axis=1).sum() / shown.any(axis=0).sum(), 2.0, delta=0.1)

    def test_inner_and_outer_faces_are_seen_alone_or_behind_each_other(self):
        rows = particle(opacity=0.5)
        alone = [
            self.mesh(rows, {"mesh": {"mesh": "box", "faces": faces}})[SIZE[1] // 2, SIZE[0] // 2, 3]
            for faces in ("outer", "inner", "both")
        ]
        np.testing.assert_allclose(alone, [0.5, 0.5, 0.75], atol=0.01)
        # Open at its ends, a cylinder shows its inside from above.
        above = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=80, view=40)
        seen = [
            np.count_nonzero(
                self.mesh(particle(), {"mesh": {"mesh": "cylinder", "faces": faces}}, camera=above)[..., 3]
            )
            for faces in ("outer", "inner")
        ]
        self.assertGreater(min(seen), 100)

    def test_what_is_cut_out_hides_by_its_depth_and_erodes(self):
        near, far = particle((0, 0, 0.5), color=(1, 0, 0)), particle((0, 0, -0.5), color=(0, 1, 0))
        for rows in (np.concatenate([near, far]), np.concatenate([far, near])):
            shown = self.mesh(rows, {"blend": "cutout", "sort": "none"})[SIZE[1] // 2, SIZE[0] // 2]
            np.testing.assert_allclose(shown, [1, 0, 0, 1], atol=1e-3)
        noise = texture(
            [np.repeat(np.random.default_rng(1).random((32, 32, 1)).astype(np.float32), 4, axis=2)],
            data=True,
            wrap=True,
        )
        left = [
            np.count_nonzero(
                self.mesh(
                    particle(erode=much),
                    {"blend": "cutout", "erode": {"amount": 0.5, "edge": 0.05}},
                    {"erode": noise},
                )[..., 3]
            )
            for much in (0.0, 0.3, 0.6, 0.9)
        ]
        # Between its grains the noise is smoother, so that less of it is very low or high.
        shares = np.array(left) / left[0]
        self.assertTrue((np.diff(shares) < 0).all() and 0.3 < shares[2] < 0.7 and shares[3] < 0.1, shares)

    def test_its_picture_lies_on_its_own_coordinates(self):
        halves = plate((1, 1, 1), 32)
        halves[:16] = (1, 0, 0, 1)
        shown = self.mesh(
            particle((0, -0.5, 0)),
            {"texture": "t", "mesh": {"mesh": "cylinder"}},
            {"picture": texture([halves])},
        )
        upper, lower = (shown[SIZE[1] // 2 + way * int(0.25 * METRE), SIZE[0] // 2] for way in (-1, 1))
        np.testing.assert_allclose(upper[:3], (1, 0, 0), atol=0.02)
        np.testing.assert_allclose(lower[:3], (1, 1, 1), atol=0.02)
        twice = self.mesh(
            particle((0, -0.5, 0)),
            {"texture": "t", "tiles": [1, 2], "mesh": {"mesh": "cylinder"}},
            {"picture": texture([halves])},
        )
        np.testing.assert_allclose(
            twice[SIZE[1] // 2 - int(0.12 * METRE), SIZE[0] // 2, :3], (1, 1, 1), atol=0.02
        )

    def test_parts_are_drawn_for_those_that_wear_them(self):
        rows = np.concatenate(
            [particle((x, 0, 0), size=0.5, lot=lot) for x, lot in ((-0.7, 0.01), (0.7, 0.99))]
        )
        shown = self.mesh(rows, {"mesh": {"mesh": "shards"}})[..., 3] > 0.5
        left, right = shown[:, : SIZE[0] // 2], shown[:, SIZE[0] // 2 :]
        self.assertGreater(min(left.sum(), right.sum()), 50)
        self.assertFalse(np.array_equal(left, right))


if __name__ == "__main__":
    unittest.main()
