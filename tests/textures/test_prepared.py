"""Pictures made ready for the card: what they hold, weigh and cover; and what is remembered of builds."""

import dataclasses
import threading
import unittest

import numpy as np

from pale_ember.effect.effect import Effect
from pale_ember.textures.making.canvas import Canvas
from pale_ember.textures.making.memory import MOST_CANVASES, BuildMemory
from pale_ember.textures.outline import strip_corners
from pale_ember.textures.pictures import Pictures
from pale_ember.textures.prepared import linear_halves, prepared
from pale_ember.textures.shipped import plain_cloud


def linear(byte):
    share = byte / 255.0
    return np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)


def texture(**fields):
    return Effect().edit("textures", [{"name": "one", "file": "a.png", **fields}]).textures[0]


def pictures(frames=1, side=8, **more):
    pixels = np.random.default_rng(frames).uniform(0, 1, (frames, side, side, 4)).astype(np.float32)
    return Pictures(pixels, **more)


class Ready(unittest.TestCase):
    def test_colours_are_premultiplied_bytes_and_data_bytes_as_they_are(self):
        found = pictures(2)
        light, cover = found.pixels[..., :3], found.pixels[..., 3:]
        colors = prepared(texture(), found)
        self.assertEqual((colors.is_coded, colors.frames, colors.size), (True, 2, (8, 8)))
        # A byte is at most half a step from what is meant.
        wanted = light * cover
        near = linear(colors.pixels[..., :3])
        self.assertLess(float(np.abs(near - wanted).max()), 0.0045)
        np.testing.assert_allclose(colors.pixels[..., 3:], cover * 255, atol=0.5001)
        already = prepared(texture(), dataclasses.replace(found, premultiplied=True))
        self.assertLess(float(np.abs(linear(already.pixels[..., :3]) - light).max()), 0.0045)
        data = prepared(texture(data=True), found)
        np.testing.assert_allclose(data.pixels, found.pixels * 255, atol=0.5001)
        self.assertFalse(data.is_coded)

    def test_more_than_bytes_hold_is_kept_as_halves(self):
        plain = pictures()
        bright = dataclasses.replace(plain, pixels=plain.pixels * [4, 1, 1, 1])
        for found in (bright, dataclasses.replace(plain, deep=True)):
            ready = prepared(texture(), found)
            self.assertEqual((ready.pixels.dtype, ready.is_coded), (np.float16, False))
            wanted = found.pixels[..., :3] * found.pixels[..., 3:]
            np.testing.assert_allclose(ready.pixels[..., :3], wanted, rtol=2e-3, atol=1e-4)
        below = dataclasses.replace(plain, pixels=plain.pixels - np.float32([0.5, 0, 0, 0]))
        self.assertEqual(float(prepared(texture(), below).pixels[..., :3].min()), 0.0)
        # Numbers from 0 to 1 are bytes; beyond them they are kept as they are.
        self.assertEqual(prepared(texture(data=True), below).pixels.dtype, np.uint8)
        wide = dataclasses.replace(plain, pixels=plain.pixels * 4 - 1)
        np.testing.assert_allclose(
            prepared(texture(data=True), wide).pixels, wide.pixels, rtol=2e-3, atol=1e-3
        )

    def test_memory_counts_what_the_card_holds(self):
        byte = 2 * 8 * 8 * 4
        self.assertEqual(prepared(texture(data=True), pictures(2)).memory, byte * 4 // 3)
        self.assertEqual(prepared(texture(), pictures(2)).memory, 2 * byte * 4 // 3)
        deep = prepared(texture(), dataclasses.replace(pictures(2), deep=True))
        self.assertEqual(deep.memory, 2 * byte * 4 // 3)
        maps = prepared(texture(), pictures(2), normals=pictures(), motion=pictures())
        self.assertEqual(maps.memory, (2 * byte + byte + 2 * 8 * 8 * 2 * 2) * 4 // 3)

    def test_it_is_opaque_only_where_all_of_it_is(self):
        whole = np.ones((2, 8, 8, 4), np.float32)
        for deep in (False, True):
            self.assertTrue(prepared(texture(), Pictures(whole, deep=deep)).is_opaque)
            hole = whole.copy()
            hole[1, 7, 7, 3] = 0.99
            self.assertFalse(prepared(texture(), Pictures(hole, deep=deep)).is_opaque)

    def test_its_mean_colour_is_that_of_its_bright_parts(self):
        pixels = np.zeros((1, 8, 8, 4), np.float32)
        pixels[0, :4] = [0.8, 0.4, 0.2, 1.0]
        pixels[0, 4:] = [0.1, 0.1, 0.1, 0.5]
        for deep in (False, True):
            light = np.array([[0.8, 0.4, 0.2], [0.05, 0.05, 0.05]])
            weight = light.mean(axis=1, keepdims=True)
            wanted = (light * weight).sum(axis=0) / (np.array([[1.0], [0.5]]) * weight).sum()
            ready = prepared(texture(), Pictures(pixels, deep=deep))
            np.testing.assert_allclose(ready.mean, wanted, rtol=0.02)
        data = prepared(texture(data=True), Pictures(pixels))
        np.testing.assert_allclose(data.mean, wanted, rtol=0.02)
        # Of many frames, some stand for all.
        many = prepared(texture(), Pictures(np.repeat(pixels, 32, axis=0)))
        np.testing.assert_allclose(many.mean, wanted, rtol=0.02)

    def test_what_it_covers_is_the_share_of_its_polygons(self):
        pixels = np.zeros((2, 32, 32, 4), np.float32)
        pixels[0, 8:24, 8:24] = 1.0
        pixels[1] = 1.0
        ready = prepared(texture(), Pictures(pixels))
        self.assertAlmostEqual(ready.covered, (0.25 + 1.0) / 2, delta=0.06)
        polygons = [ready.corners[i] for i in range(2)]
        self.assertEqual(ready.joint_corners.shape, (2, 8, 2))
        # Of two frames after one another all of the larger is drawn.
        self.assertGreater(float(np.ptp(ready.joint_corners[0], axis=0).min()), 1.99)
        self.assertLess(float(np.ptp(polygons[0], axis=0).max()), 1.2)
        self.assertEqual(strip_corners(np.array([[0, 0], [1, 0], [1, 1]], float)).shape, (8, 2))

    def test_faint_light_is_still_covered(self):
        pixels = np.zeros((1, 32, 32, 4), np.float32)
        pixels[0, :, :, 3] = 0.0005
        pixels[0, 8:24, 8:24, :] = [0.004, 0.004, 0.004, 0.0]
        bare = prepared(texture(), Pictures(pixels, premultiplied=True))
        self.assertGreater(float(np.ptp(bare.corners[0], axis=0).min()), 0.9)

    def test_normals_and_motion_of_other_pictures_are_read_as_vectors(self):
        flat = np.full((1, 8, 8, 4), 0.5, np.float32)
        up = flat.copy()
        up[..., :3] = [1.0, 0.5, 0.5]
        turned = np.concatenate([flat, up])
        ready = prepared(texture(), pictures(3), normals=Pictures(turned))
        self.assertEqual(ready.normals.shape, (3, 8, 8, 4))
        vectors = ready.normals[..., :3].astype(float) / 255 * 2 - 1
        # No way at all is towards the eye; frames are repeated.
        np.testing.assert_allclose(vectors[0, 0, 0], [0, 0, 1], atol=0.01)
        np.testing.assert_allclose(vectors[1, 3, 3], [1, 0, 0], atol=0.01)
        np.testing.assert_allclose(vectors[2], vectors[0])
        moved = flat.copy()
        moved[..., :2] = [1.0, 0.25]
        ready = prepared(texture(motion_reach=3.0), pictures(2), motion=Pictures(moved))
        np.testing.assert_allclose(ready.motion, np.broadcast_to([3.0, -1.5], (2, 8, 8, 2)), atol=0.01)
        far = prepared(texture(motion_reach=9.0), pictures(), motion=Pictures(moved))
        self.assertEqual(float(far.motion.max()), 4.0)

    def test_bytes_become_the_halves_that_they_stand_for(self):
        every = np.repeat(np.arange(256, dtype=np.uint8)[:, None], 4, axis=1)
        found = linear_halves(every)
        np.testing.assert_allclose(
            found[:, :3], np.repeat(linear(np.arange(256.0))[:, None], 3, axis=1), rtol=1e-3, atol=1e-6
        )
        np.testing.assert_allclose(found[:, 3], np.arange(256) / 255, rtol=1e-3)

    def test_the_plain_cloud_tiles_and_is_numbers(self):
        cloud = plain_cloud()
        self.assertEqual((cloud.data, cloud.wrap, cloud.size, cloud.frames), (True, True, (128, 128), 1))
        one = cloud.pixels[0, ..., 0].astype(float)
        inside = np.abs(np.diff(one, axis=0)).mean()
        self.assertLess(float(np.abs(one[0] - one[-1]).mean()), 2.0 * inside)
        self.assertLess(float(np.abs(one[:, 0] - one[:, -1]).mean()), 2.0 * inside)
        self.assertIs(plain_cloud(), cloud)


class Memory(unittest.TestCase):
    def canvas(self, share):
        """Return a canvas that takes a share of what is kept."""
        side = int(np.sqrt(MOST_CANVASES * share / 4))
        return Canvas(side, 0, 1, 0, np.broadcast_to(np.float32(0), (side, side)))

    def test_the_oldest_go_where_there_is_no_room(self):
        memory = BuildMemory()
        for key in "abc":
            memory.keep_canvas(key, self.canvas(0.3))
        self.assertIsNotNone(memory.canvas("a"))
        memory.keep_canvas("d", self.canvas(0.3))
        # “a” was asked for lately, “b” was not.
        kept = [memory.canvas(key) is not None for key in "abcd"]
        self.assertEqual(kept, [True, False, True, True])

    def test_what_is_too_large_is_not_kept_and_what_is_known_not_twice(self):
        memory = BuildMemory()
        memory.keep_canvas("large", self.canvas(0.51))
        self.assertIsNone(memory.canvas("large"))
        for _ in range(9):
            memory.keep_canvas("a", self.canvas(0.3))
        memory.keep_canvas("b", self.canvas(0.3))
        self.assertIsNotNone(memory.canvas("a"))

    def test_a_copy_may_be_packed_without_changing_what_is_kept(self):
        memory, canvas = BuildMemory(), self.canvas(0.01)
        memory.keep_canvas("a", canvas)
        canvas.packed["red"] = canvas.light
        found = memory.canvas("a")
        found.packed["green"] = found.light
        self.assertEqual(memory.canvas("a").packed, {})
        self.assertIsNone(memory.flow("a"))

    def test_threads_share_it(self):
        memory, wrong = BuildMemory(), []

        def work(name):
            try:
                for i in range(300):
                    memory.keep_canvas((name, i), self.canvas(0.2))
                    memory.canvas((name, i - 1))
            except Exception as problem:
                wrong.append(problem)

        threads = [threading.Thread(target=work, args=(name,)) for name in "ab"]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(wrong, [])
        self.assertLessEqual(memory._canvases.held, MOST_CANVASES)
