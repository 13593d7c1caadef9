"""A sprite gives as much light and as much cover wherever it falls between the pixels, and however small,
thin or turned it is.
"""

import unittest
from unittest import mock

import numpy as np

from pale_ember.drawing.camera import view_matrix
from pale_ember.drawing.passes import sprites
from pale_ember.textures.library import shipped_textures
from pale_ember.textures.making.build import make
from pale_ember.textures.prepared import linear_halves, prepared

from .light_case import FLAT, NOTHING, LightCase, particle, plate, texture

# Many sprites in one picture, each in the middle of a cell of its own.
CELL, SIDE = 64, 10
WIDE = CELL * SIDE
PIXEL = 2 * 4 * np.tan(np.radians(20)) / WIDE
# The light of a soft dot is this share of its square's.
DOT = np.pi / 12


def shipped(name):
    found = next(one for one in shipped_textures() if one.name == name)
    return prepared(found, make(found))


def holes():
    """Return a picture of thin bright lines on nothing, which no smaller copy keeps."""
    lines = np.zeros((64, 64), np.float32)
    lines[::9] = 1.0
    lines[:, ::7] = 0.6
    return texture([lines])


class FootprintTest(LightCase):
    def cells(self, rows, look, worn, points):
        """Return the light and the cover of each cell, (n, 2)."""
        with mock.patch.object(sprites, "WIDEST_POINT", 60.0 if points else 0.0):
            found = self.light([(np.concatenate(rows), look, worn)], environment=NOTHING, size=(WIDE, WIDE))
        each = found.reshape(SIDE, CELL, SIDE, CELL, 4).sum(axis=(1, 3)).reshape(-1, 4)
        return np.stack([each[:, :3].sum(axis=1), each[:, 3]], axis=1)

    def scattered(self, dice, low, high, texture, facing):
        """Return one sprite for each cell, anywhere in a pixel, and what light and cover each should
        give, (n, 2).
        """
        rows, wanted = [], []
        for i in range(SIDE * SIDE):
            row, column = divmod(i, SIDE)
            x, y = (column + 0.5) * CELL - WIDE / 2, WIDE / 2 - (row + 0.5) * CELL
            across, up = dice.uniform(low, high, 2)
            frame = 0 if texture is None else int(dice.integers(texture.frames))
            way = (
                dice.normal(size=3) * (PIXEL * high / 8, PIXEL * high / 8, 0)
                if facing == "streak"
                else np.zeros(3)
            )
            place = np.array([x, y, 0]) * PIXEL + [*dice.uniform(-0.5, 0.5, 2) * PIXEL, 0]
            rows.append(
                particle(
                    place,
                    size=(across * PIXEL, up * PIXEL),
                    angle=dice.uniform(-3, 3),
                    frame=frame,
                    opacity=0.5,
                    way=way,
                )
            )
            long = up + float(np.linalg.norm(way)) / PIXEL
            whole = (3 * DOT, DOT)
            if texture is not None:
                light = linear_halves(texture.pixels[frame]).astype(float)
                whole = light[..., :3].mean(axis=(0, 1)).sum(), light[..., 3].mean()
            wanted.append(np.array(whole) * (across * long * 0.5))
        return rows, np.array(wanted)

    def test_light_and_cover_are_those_of_its_area_times_its_picture(self):
        dice = np.random.default_rng(24)
        worn = {
            "": None,
            "plate": texture([plate((1, 0.6, 0.3))]),
            "cracks": shipped("cracks"),
            "wisp": shipped("wisp"),
            "lines": holes(),
        }
        for name, ready in worn.items():
            for low, high in ((0.1, 1), (1, 2.5), (2.5, 6), (6, 16), (16, 40)):
                for facing in ("camera", "streak"):
                    rows, wanted = self.scattered(dice, low, high, ready, facing)
                    look = {
                        "texture": "p" if ready else "",
                        "facing": facing,
                        "streak": 1.0,
                        "streak_most": 9.0,
                    }
                    for points in (True, False) if facing == "camera" else (False,):
                        found = self.cells(rows, look, {"picture": ready} if ready else {}, points)
                        seen = wanted[:, 0] > 0.01
                        off = np.abs(found / np.maximum(wanted, 1e-9) - 1.0)[seen]
                        self.assertGreater(seen.sum(), 20 if low < 1 else 60)
                        # Along a streak some places of finer copies stand for all.
                        most = 0.08 if facing == "streak" else 0.07 if name == "lines" else 0.05
                        self.assertLess(off.max(), most, (name, facing, low, points))
                        self.assertLess(
                            abs(found[seen].sum() / wanted[seen].sum() - 1.0), 0.008, (name, facing, low)
                        )

    def test_a_streak_tapers_as_its_picture_does(self):
        for high, wide in ((4.0, 24.0), (5.0, 30.0), (3.0, 14.0)):
            profiles = []
            for times in (1, 16):
                pixel = PIXEL * WIDE / 80
                row = particle(
                    (0, 0, 0),
                    size=(high * pixel, high * pixel),
                    opacity=0.5,
                    way=np.array([(wide - high) * pixel, 0, 0]),
                )
                look = {"texture": "p", "facing": "streak", "streak": 1.0, "streak_most": 99.0}
                found = self.light(
                    [(row, look, {"picture": shipped("fleck")})],
                    environment=NOTHING,
                    size=(80 * times, 80 * times),
                )[..., 3]
                across = found.astype(np.float64).sum(axis=0)
                profiles.append(across.reshape(80, times).sum(axis=1) / times**2)
            few, many = profiles
            self.assertLess(float(np.abs(few - many).max()), 0.2 * float(many.max()), (high, wide))

    def test_a_polygon_holds_what_smaller_copies_reach_beyond_it(self):
        ready = shipped("cracks")
        for frame in range(2, ready.frames, 5):
            light = float(linear_halves(ready.pixels[frame]).astype(float)[..., 3].mean())
            for size in (49.0, 57.0):
                row = particle((0.3 * PIXEL, 0.1 * PIXEL, 0), size=(size * PIXEL, size * PIXEL), frame=frame)
                found = self.light(
                    [(row, {"texture": "p"}, {"picture": ready})], environment=NOTHING, size=(WIDE, WIDE)
                )[..., 3].sum()
                self.assertAlmostEqual(found / (light * size * size), 1.0, delta=0.015, msg=f"{frame} {size}")

    def test_a_needle_is_one_line_wherever_it_falls(self):
        for angle in (0.0, 0.02, 0.5, np.pi / 4):
            light = []
            for off in np.linspace(0, 1, 8):
                row = particle(
                    (off * PIXEL, 0.3 * off * PIXEL, 0), size=(0.3 * PIXEL, 30 * PIXEL), angle=angle
                )
                light.append(self.light([(row, {})], environment=NOTHING, size=(WIDE, WIDE))[..., 0])
            sums = [one.sum() for one in light]
            np.testing.assert_allclose(sums, DOT * 9, rtol=0.03)
            # Each row of it shows something.
            self.assertTrue(
                all((one[WIDE // 2 - 8 : WIDE // 2 + 8].sum(axis=1) > 0.01).all() for one in light)
            )

    def test_every_facing_gives_what_the_same_picture_of_many_times_its_size_gives(self):
        dice = np.random.default_rng(7)
        plain, puff = texture([plate((1, 0.6, 0.3))]), shipped("puff")
        side, pixel = 64, 2 * 4 * np.tan(np.radians(20)) / 64
        # From far away: what moves by a pixel is seen from the same side.
        far = {"view": 2.0, "distance": 4 * np.tan(np.radians(20)) / np.tan(np.radians(1))}
        for case in range(40):
            facing = ("upright", "flat", "travel", "streak", "camera")[case % 5]
            sides = {
                "yaw": float(dice.uniform(-180, 180)),
                "pitch": float(dice.choice([-80, -30, -4, 4, 30, 80])),
            }
            camera = FLAT.model_copy(update={**far, **sides})
            wide = 10 ** dice.uniform(-0.5, 1.3)
            worn = ({}, {"picture": plain}, {"picture": puff})[case % 3]
            right, up = view_matrix(camera)[:2, :3]
            size = (wide * pixel, wide * pixel * dice.uniform(0.1, 1))
            look = {"facing": facing, "streak": 1.0, "streak_most": 9.0, "texture": "p" if worn else ""}
            moved = {"way": dice.normal(size=3) * wide * pixel * 0.2, "angle": dice.uniform(-3, 3)}

            def seen(x, y, times, of=(right, up, size, moved, look, worn, camera)):
                right, up, size, moved, look, worn, camera = of
                row = particle((right * x + up * y) * pixel, size=size, **moved)
                whole = {"environment": NOTHING, "camera": camera, "size": (side * times, side * times)}
                return self.light([(row, look, worn)], **whole).astype(float).sum(axis=(0, 1)) / times**2

            fine = seen(0, 0, 16)
            for _ in range(6 if fine[3] > 0.02 else 0):
                found = seen(*dice.uniform(-0.5, 0.5, 2), 1)
                words = f"{facing} {size / np.array(pixel)} {sides} {sorted(worn)}"
                most = 0.08 if facing == "streak" else 0.05
                np.testing.assert_allclose(found, fine, rtol=most, err_msg=words)

    def test_what_is_cut_out_keeps_its_two_levels(self):
        row = particle((0.3 * PIXEL, 0, 0), size=(1.7 * PIXEL, 9.4 * PIXEL), angle=0.4)
        found = self.light(
            [(row, {"blend": "cutout", "cutoff": 0.3, "texture": "p"}, {"picture": holes()})],
            environment=NOTHING,
            size=(WIDE, WIDE),
        )
        self.assertLessEqual(set(np.unique(found[..., 3])), {0.0, 1.0})

    def test_the_point_of_a_turned_square_has_its_corners(self):
        row = particle(size=(20 * PIXEL, 20 * PIXEL), angle=np.pi / 4)
        with mock.patch.object(sprites, "WIDEST_POINT", 60.0):
            found = self.light(
                [(row, {"texture": "p"}, {"picture": texture([plate((1, 1, 1))])})],
                environment=NOTHING,
                size=(WIDE, WIDE),
            )
        wide = found[WIDE // 2, :, 3].sum()
        self.assertAlmostEqual(wide, 20 * np.sqrt(2), delta=1.2)
        self.assertAlmostEqual(found[..., 3].sum(), 400, delta=4)


class LinearTest(LightCase):
    def test_a_seam_drawn_large_goes_from_light_to_light_without_a_dark_line(self):
        halves = np.concatenate(
            [np.broadcast_to([1, 0, 0, 1], (8, 4, 4)), np.broadcast_to([0, 1, 0, 1], (8, 4, 4))], axis=1
        ).astype(np.float32)
        worn = {"picture": texture([halves])}
        row = self.light([(particle(size=(3, 3)), {"texture": "p"}, worn)], environment=NOTHING)[80]
        np.testing.assert_allclose(row[30:130, 0] + row[30:130, 1], 1.0, atol=0.01)

    def test_a_fine_pattern_drawn_small_is_as_light_as_its_mean_in_full_and_in_draft(self):
        board = np.zeros((64, 64, 4), np.float32)
        board[..., 3] = 1.0
        board[::2, ::2, :3] = board[1::2, 1::2, :3] = 1.0
        worn = {"picture": texture([board])}
        for draft in (False, True):
            for size in (0.08, 0.3):
                found = self.light(
                    [(particle(size=(size, size)), {"texture": "p"}, worn)], environment=NOTHING, draft=draft
                )
                self.assertAlmostEqual(found[..., 0].sum() / found[..., 3].sum(), 0.5, delta=0.01)

    def test_a_mask_in_a_picture_of_colours_is_what_was_painted(self):
        for painted in (0.1, 0.5, 0.9):
            light = float(np.where(painted <= 0.04045, painted / 12.92, ((painted + 0.055) / 1.055) ** 2.4))
            worn = {"picture": texture([plate((light, 0, 0))])}
            found = self.middle(
                [(particle(size=(2, 2)), {"texture": "p", "channel": "red"}, worn)], environment=NOTHING
            )
            np.testing.assert_allclose(found, painted, atol=0.005)

    def test_noise_from_a_picture_of_colours_is_what_was_painted(self):
        white = {"picture": texture([plate((1, 1, 1))])}
        for painted, data in ((0.25, False), (0.7, False), (0.25, True)):
            light = painted if data else ((painted + 0.055) / 1.055) ** 2.4
            grain = texture([plate((light,) * 3)], data=data, wrap=True)
            look = {"texture": "p", "shimmer": {"amount": 1.0}}
            found = self.middle(
                [(particle(size=(2, 2), shimmer=1.0), look, {**white, "shimmer": grain})], environment=NOTHING
            )[0]
            self.assertAlmostEqual(found, 2 * painted, delta=0.01)

    def test_dark_light_keeps_its_steps(self):
        levels = np.linspace(0.0, 0.009, 33)
        found = [
            self.middle(
                [
                    (
                        particle(size=(2, 2)),
                        {"texture": "p"},
                        {"picture": texture([plate((level, level, level))])},
                    )
                ],
                environment=NOTHING,
            )[0]
            for level in levels
        ]
        np.testing.assert_allclose(found, levels, atol=0.0003)


if __name__ == "__main__":
    unittest.main()
