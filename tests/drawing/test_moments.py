"""Moments as data: what lies between two, where particles go, what they take up, in which order they are."""

import dataclasses
import itertools
import unittest

import numpy as np

from pale_ember.drawing.between import between, followed
from pale_ember.drawing.camera import axes_of, project
from pale_ember.drawing.maps import motions, surfaces
from pale_ember.drawing.moment import DrawnLayer, Moment, bounds, gathered, in_order, ribbons_in_order
from pale_ember.effect.chapters.look import Look
from pale_ember.effect.chapters.stage import Camera
from pale_ember.simulation.layout.instances import PLAIN, instance_type
from pale_ember.simulation.meshes.drawn import DrawnMeshPart
from pale_ember.simulation.ribbons.joining import Joined
from pale_ember.simulation.simulation import Lives
from pale_ember.textures.shipped import plain_cloud

LOOK = Look()


def looks(**fields):
    return Look.model_validate(fields)


def rows(count, **columns):
    """Return instances that carry some columns, plain ones without a word."""
    found = np.zeros(count, instance_type(tuple(columns)))
    for name in found.dtype.names:
        found[name] = columns.get(name, PLAIN[name])
    return found


def layer(instances, serial=None, look=LOOK, **more):
    life = None
    if serial is not None:
        serial = np.array(serial, np.uint32)
        life = Lives(np.stack([serial, serial * 10]).astype(np.float32), serial, 3, 60)
    return DrawnLayer("a", instances, look, life=life, **more)


def moment(*layers, time=1.0, levels=None):
    return Moment(time, layers, levels=levels or {})


class Between(unittest.TestCase):
    def halfway(self, before, after, share):
        found = between(moment(before, time=1.0), moment(after, time=1.5), share)
        self.assertAlmostEqual(found.time, 1.0 + 0.5 * share)
        return found.layers[0]

    def test_followed_is_where_numbers_stand_in_both(self):
        dice = np.random.default_rng(2)
        for _ in range(200):
            before, after = (
                dice.choice(12, dice.integers(0, 9), replace=False).astype(np.uint32) for _ in range(2)
            )
            here, there = followed(before, after)
            both = [number for number in before.tolist() if number in after.tolist()]
            self.assertEqual(before[here].tolist(), both)
            self.assertEqual(after[there].tolist(), both)

    def test_what_is_in_both_goes_its_share_and_what_is_in_one_is_in_the_nearer_half(self):
        places = np.arange(12, dtype=np.float32).reshape(4, 3)
        before = layer(rows(4, place=places, size=[[1, 2]] * 4), [1, 2, 5, 7])
        after = layer(rows(4, place=places + 8, size=[[3, 6]] * 4), [2, 5, 8, 9])
        for share, serial in ((0.25, [1, 2, 5, 7]), (0.5, [2, 5, 8, 9]), (0.75, [2, 5, 8, 9])):
            found = self.halfway(before, after, share)
            self.assertEqual(found.life.serial.tolist(), serial)
            self.assertEqual(found.life.rows[1].tolist(), [10.0 * one for one in serial])
            first = serial.index(2)
            wanted = places[1] + (places[0] + 8 - places[1]) * share
            np.testing.assert_allclose(found.instances["place"][first], wanted, atol=1e-6)
            np.testing.assert_allclose(found.instances["size"][first], [1 + 2 * share, 2 + 4 * share])
        self.assertEqual(self.halfway(before, after, 0.0), before)
        np.testing.assert_array_equal(self.halfway(before, after, 0.25).instances["place"][0], places[0])
        np.testing.assert_array_equal(self.halfway(before, after, 0.75).instances["place"][3], places[3] + 8)

    def test_angles_frames_and_turns_go_the_short_way_and_dice_stay(self):
        cloud = dataclasses.replace(plain_cloud(), pixels=np.repeat(plain_cloud().pixels, 4, axis=0))
        around = looks(frame_end="around")
        quarter = np.sqrt(0.5)
        before = layer(
            rows(1, angle=3.0, frame=0.25, dice=[[0.2, 0.4]], turn=[[0, 0, 0, 1.0]], lot=0.3),
            [4],
            around,
            wears={"picture": cloud},
        )
        after = layer(
            rows(
                1,
                angle=-3.0,
                frame=cloud.frames - 0.25,
                dice=[[0.9, 0.9]],
                turn=[[0, 0, -quarter, -quarter]],
                lot=0.8,
            ),
            [4],
            around,
            wears={"picture": cloud},
        )
        found = self.halfway(before, after, 0.5).instances
        self.assertAlmostEqual(float(found["angle"][0]) % (2 * np.pi), np.pi, places=5)
        self.assertAlmostEqual(float(found["frame"][0]) % cloud.frames, 0.0, places=5)
        np.testing.assert_allclose(found["dice"][0], [0.2, 0.4], atol=1e-6)
        self.assertAlmostEqual(float(found["lot"][0]), 0.3, places=6)
        eighth = np.pi / 8
        np.testing.assert_allclose(found["turn"][0], [0, 0, np.sin(eighth), np.cos(eighth)], atol=1e-6)
        held = dataclasses.replace(before, look=looks(frame_end="hold"))
        straight = self.halfway(held, dataclasses.replace(after, look=held.look), 0.5).instances
        self.assertAlmostEqual(float(straight["frame"][0]), cloud.frames / 2, places=5)

    def test_ribbons_and_what_differs_in_kind_are_those_of_the_nearer_moment(self):
        ribbon = looks(draw="ribbon")
        for before, after in (
            (layer(rows(1), [1], ribbon), layer(rows(2), [1, 2], ribbon)),
            (layer(rows(1, angle=1.0), [1]), layer(rows(1), [1])),
            (layer(rows(1)), layer(rows(1), [1])),
        ):
            self.assertIs(self.halfway(before, after, 0.49), before)
            self.assertIs(self.halfway(before, after, 0.5), after)
        alone = layer(rows(1), [1])
        self.assertIs(between(moment(alone), moment(), 0.9).layers[0], alone)


class Maps(unittest.TestCase):
    camera, size = Camera(), (200, 100)

    def test_colours_tell_where_particles_go_in_shares_of_the_picture(self):
        dice = np.random.default_rng(5)
        first = dice.uniform(-0.3, 0.3, (5, 3)).astype(np.float32) + np.float32([0, 0.8, 0])
        last = first + dice.uniform(-0.1, 0.1, (5, 3)).astype(np.float32)
        before = layer(rows(5, place=first, intensity=4.0, angle=0.5), [1, 2, 3, 4, 5], looks(lit=0.7))
        after = layer(rows(4, place=last[1:]), [2, 3, 4, 5])
        found = motions(moment(before), moment(after), self.camera, self.size).layers[0]
        self.assertNotIn("intensity", found.instances.dtype.names)
        self.assertEqual((found.fixed["intensity"], found.look.lit), ((1.0,), 0.0))
        np.testing.assert_allclose(found.instances["angle"], 0.5)
        (a, _), (b, _) = (project(self.camera, *self.size, place) for place in (first, last))
        wanted = np.full((5, 3), 0.5)
        wanted[1:, 0] += (b - a)[1:, 0] / 200 / 2
        wanted[1:, 1] -= (b - a)[1:, 1] / 100 / 2
        np.testing.assert_allclose(found.instances["color"], wanted, atol=1e-5)

    def test_what_leaves_or_stands_behind_the_camera_goes_nowhere_and_far_ways_are_held(self):
        right, _, forward = axes_of(self.camera)
        ahead = np.array(self.camera.target)
        behind = ahead - forward * 9 * self.camera.distance
        before = layer(rows(3, place=np.array([ahead, behind, ahead], np.float32)), [1, 2, 3])
        after = layer(rows(3, place=np.array([behind, ahead, ahead + right * 40], np.float32)), [1, 2, 3])
        color = motions(moment(before), moment(after), self.camera, self.size).layers[0].instances["color"]
        sides = np.sort([tuple(color[0]), tuple(color[1])], axis=0)
        np.testing.assert_allclose(sides, 0.5)
        self.assertAlmostEqual(float(color[2, 0]), 1.0)
        alone = motions(moment(before), moment(), self.camera, self.size).layers[0]
        np.testing.assert_allclose(alone.instances["color"], 0.5)

    def test_masks_cover_what_is_covered_without_light_of_their_own(self):
        cloud = plain_cloud()
        look = looks(blend="add", lit=0.4, erode={"rim_intensity": 5.0}, shimmer={"amount": 0.5})
        for data, channel in ((False, "alpha"), (True, "red")):
            worn = {"picture": dataclasses.replace(cloud, data=data)}
            found = motions(moment(layer(rows(1), [1], look, wears=worn)), moment(), self.camera, self.size)
            mask = found.layers[0].look
            self.assertEqual((mask.blend, mask.channel, mask.lit), ("alpha", channel, 0.0))
            self.assertEqual((mask.erode.rim_intensity, mask.shimmer == look.shimmer), (0.0, False))
        lit = surfaces(moment(layer(rows(1), [1], look, wears={"picture": cloud}))).layers[0].look
        self.assertEqual((lit.blend, lit.channel, lit.lit), ("alpha", "all", 1.0))
        self.assertEqual(
            surfaces(moment(layer(rows(1), look=looks(blend="cutout")))).layers[0].look.blend, "cutout"
        )


class Extent(unittest.TestCase):
    def test_bounds_hold_what_has_some_size_and_is_finite(self):
        place = [[0, 0, 0], [1, 2, 3], [9, 9, 9], [np.nan, 0, 0]]
        one = layer(rows(4, place=place, size=[[1, 2], [4, 0.5], [1, 0], [1, 1]]))
        low, high = bounds(moment(one))
        np.testing.assert_allclose((low, high), ([-1, -1, -1], [3, 4, 5]))
        self.assertIsNone(bounds(moment(one), only={"b"}))
        self.assertIsNotNone(bounds(moment(one), only={"a", "b"}))
        self.assertIsNone(bounds(moment(layer(rows(2, size=[[1, 0]] * 2)))))

    def test_turned_pictures_reach_as_far_as_their_corners_anchors_and_tails(self):
        plain = layer(rows(1, place=[[0, 0, 0]], size=[[3, 4]]))
        low, high = bounds(moment(plain), turned=True)
        np.testing.assert_allclose(high, [2.5] * 3, atol=1e-6)
        np.testing.assert_allclose(low, -high)
        anchored = dataclasses.replace(plain, look=looks(anchor=-0.5))
        np.testing.assert_allclose(bounds(moment(anchored), turned=True)[1], np.hypot(1.5, 4), rtol=1e-6)
        streak = looks(facing="streak", streak_least=0.5, streak_most=2.0)
        for way, tail in (([1, 0, 0], -1.0), ([9, 0, 0], -2.0), ([0.1, 0, 0], -0.5)):
            moving = layer(rows(1, place=[[0, 0, 0]], size=[[3, 4]], way=[way]), look=streak)
            low, high = bounds(moment(moving), turned=True)
            np.testing.assert_allclose(low, [tail - 2.5, -2.5, -2.5], atol=1e-5)
            np.testing.assert_allclose(high, 2.5, atol=1e-5)
        still = layer(rows(1, place=[[0, 0, 0]], size=[[3, 4]], way=[[0, 0, 0]]), look=streak)
        np.testing.assert_allclose(bounds(moment(still), turned=True)[1], 3.0, atol=1e-5)

    def test_bodies_are_held_as_they_are_stretched_and_turned(self):
        dice = np.random.default_rng(8)
        vertices = np.zeros((6, 8), np.float32)
        vertices[:, :3] = dice.uniform(-0.5, 0.5, (6, 3))
        body = (DrawnMeshPart(vertices, np.zeros((1, 3), np.int32)),)
        turn = dice.normal(size=4)
        turn /= np.linalg.norm(turn)
        one = rows(1, place=[[1, 2, 3]], size=[[2, 3]], stretch=[[1, 0.5, 2]], turn=[turn])
        low, high = bounds(moment(layer(one, body=body)))
        x, y, z, w = turn
        matrix = np.array(
            [
                [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
                [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
                [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
            ]
        )
        ends = zip(vertices[:, :3].min(axis=0), vertices[:, :3].max(axis=0), strict=True)
        corners = np.array(list(itertools.product(*ends))) * [2, 1.5, 4] @ matrix.T + [1, 2, 3]
        np.testing.assert_allclose(low, corners.min(axis=0), atol=1e-5)
        np.testing.assert_allclose(high, corners.max(axis=0), atol=1e-5)

    def test_a_box_that_goes_with_the_camera_is_repeated_about_its_target(self):
        place = np.random.default_rng(3).uniform(-20, 20, (200, 3)).astype(np.float32)
        one = layer(rows(200, place=place), around=(4.0, 6.0))
        found = gathered(one, (10.3, 5.0, -7.1)).instances["place"]
        np.testing.assert_array_equal(found[:, 1], place[:, 1])
        for axis, middle, wide in ((0, 10.3, 4.0), (2, -7.1, 6.0)):
            self.assertLessEqual(float(np.abs(found[:, axis] - middle).max()), wide / 2 + 1e-5)
            steps = (found[:, axis] - place[:, axis]) / wide
            np.testing.assert_allclose(steps, np.round(steps), atol=1e-5)
        self.assertIs(gathered(layer(rows(2)), (9, 9, 9)).around, None)
        thin = gathered(layer(rows(1, place=[[5, 0, 5]]), around=(0.0, 2.0)), (0, 0, 0)).instances["place"]
        np.testing.assert_allclose(thin[0], [5, 0, 1], atol=1e-6)


class Order(unittest.TestCase):
    back = np.array([0.0, 0.0, 1.0])

    def test_particles_come_by_depth_or_by_age_where_their_blend_minds(self):
        depths = [3.0, -1.0, 2.0, 0.0]
        one = rows(4, place=[[0, 0, z] for z in depths])
        for look, wanted in (
            ({"sort": "far"}, sorted(depths)),
            ({"sort": "young"}, depths[::-1]),
            ({"sort": "old"}, depths),
            ({"sort": "none"}, depths),
            ({"sort": "far", "blend": "add"}, depths),
        ):
            found = in_order(layer(one, look=looks(**look)), self.back)
            self.assertEqual(found["place"][:, 2].tolist(), wanted, look)

    def test_ribbons_come_whole_by_their_middles_or_by_their_age(self):
        depth = [0, 1, 2, 9, 9, 9, -5, -4, -3, -2]
        joined = Joined(
            rows(10, place=[[0, 0, z] for z in depth]),
            np.array([0, 3, 6, 10], np.int32),
            np.arange(10, dtype=np.int32),
            np.array([7, 8, 9], np.uint32),
            np.array([0.1, 0.2, 0.3], np.float32),
        )
        for sort, whose in (
            ("far", [9, 7, 8]),
            ("young", [9, 8, 7]),
            ("old", [7, 8, 9]),
            ("none", [7, 8, 9]),
        ):
            found = ribbons_in_order(joined, looks(sort=sort), self.back)
            self.assertEqual(found.whose.tolist(), whose)
            for i, number in enumerate(whose):
                at = int(np.flatnonzero(joined.whose == number)[0])
                points = joined.order[joined.starts[at] : joined.starts[at + 1]]
                np.testing.assert_array_equal(found.order[found.starts[i] : found.starts[i + 1]], points)
                self.assertEqual(found.cuts[i], joined.cuts[at])
        single = joined._replace(starts=joined.starts[:2])
        self.assertIs(ribbons_in_order(single, looks(sort="young"), self.back), single)
        self.assertIs(ribbons_in_order(joined, looks(sort="far", blend="add"), self.back), joined)


class Rates(unittest.TestCase):
    def test_each_second_counts_the_last_one(self):
        levels = np.zeros((41, 5))
        levels[:, 0] = np.arange(41) * 0.1
        levels[:, 3] = np.arange(41) ** 2
        now = moment(time=3.0, levels={"a": levels, "b": levels[:1]})
        self.assertAlmostEqual(now.each_second("a", 3), (30**2 - 20**2) / 1.0, delta=45.0)
        self.assertIsNone(now.each_second("b", 3))
        self.assertIsNone(now.each_second("c", 3))
        self.assertIsNone(dataclasses.replace(now, time=0.05).each_second("a", 3))
        self.assertAlmostEqual(dataclasses.replace(now, time=0.1).each_second("a", 3), 10.0)
        # Where rows are far apart the last two are told.
        far = {"a": np.array([[0.0, 0, 0, 0, 0], [5.0, 0, 0, 20, 0]])}
        self.assertAlmostEqual(moment(time=5.0, levels=far).each_second("a", 3), 4.0)
