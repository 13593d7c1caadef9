"""Sheets: cut apart and laid again, found, trimmed, put in another order; masks packed and unpacked."""

import json
import unittest

import numpy as np

from pale_ember.effect.editing.build_moves import (
    MaskSource,
    as_build,
    halved,
    packed,
    power_below,
    read_steps,
    steps_data,
    unpacked,
)
from pale_ember.effect.errors import EffectError
from pale_ember.effect.kinds import Channel
from pale_ember.effect.textures import Texture
from pale_ember.textures.cutting import Grid, grid_for, laid_out
from pale_ember.textures.making.build import Making, make
from pale_ember.textures.making.memory import BuildMemory
from pale_ember.textures.reading import Raw, pictures_of
from pale_ember.textures.sheets import find_layout

from .making_case import light, texture, with_files


def blob(rng, high, wide):
    """Return a soft spot somewhere in a frame, clear at its borders."""
    y, x = np.mgrid[0:high, 0:wide]
    size = rng.uniform(0.16, 0.3) * min(high, wide)
    cy, cx = (long / 2 + rng.uniform(-0.12, 0.12) * long for long in (high, wide))
    return np.clip(1.2 - ((x - cx) ** 2 + (y - cy) ** 2) / size**2, 0, 1)


class SheetTest(unittest.TestCase):
    def test_what_is_laid_and_cut_is_the_same_to_the_bit(self):
        rng = np.random.default_rng(1)
        for count in (1, 2, 5, 9, 16):
            for padding in (0, 1, 3):
                frames = rng.integers(0, 256, (count, 12, 16, 4)).astype(np.uint8)
                sheet, grid = laid_out(frames, padding), grid_for(count, padding)
                for i, frame in enumerate(frames):
                    np.testing.assert_array_equal(grid.cut(sheet, i), frame)

    def test_a_file_with_margin_and_gap_is_read_frame_by_frame(self):
        rng = np.random.default_rng(4)
        frames = rng.integers(0, 256, (6, 10, 10, 4)).astype(np.uint8)
        sheet = np.zeros((2 * 3 + 2 * 10 + 2, 2 * 3 + 3 * 10 + 2 * 2, 4), np.uint8)
        for i, frame in enumerate(frames):
            row, column = divmod(i, 3)
            sheet[3 + row * 12 : 13 + row * 12, 3 + column * 12 : 13 + column * 12] = frame
        entry = Texture(name="t", file="t.png", data=True, columns=3, rows=2, margin=3, gap=2)
        made = pictures_of(entry, Raw(sheet, False, True))
        np.testing.assert_allclose(made.pixels * 255, frames, atol=1e-3)
        found = find_layout(sheet)
        self.assertEqual(found, (3, 2, 6, 3, 2))

    def test_the_layout_of_many_sheets_is_found(self):
        wrong = []
        rng = np.random.default_rng(11)
        for turn in range(60):
            columns, rows = int(rng.integers(1, 9)), int(rng.integers(1, 9))
            if columns * rows == 1:
                columns = 2
            wide, high = (int(rng.choice([16, 24, 32, 48])) for _ in range(2))
            padding = int(rng.choice([0, 0, 1, 2, 4]))
            full = turn % 3 == 0 and padding > 0
            frames = columns * rows - int(rng.integers(0, columns)) if rows > 1 else columns
            sheet = np.zeros((rows * (high + 2 * padding), columns * (wide + 2 * padding), 4), np.uint8)
            for i in range(frames):
                row, column = divmod(i, columns)
                y, x = row * (high + 2 * padding) + padding, column * (wide + 2 * padding) + padding
                inside = rng.uniform(0.4, 1.0, (high, wide)) if full else blob(rng, high, wide)
                sheet[y : y + high, x : x + wide, :3] = rng.integers(120, 256, 3)
                sheet[y : y + high, x : x + wide, 3] = inside * 255
            found = find_layout(sheet)
            if found[:3] != (columns, rows, frames):
                wrong.append(((columns, rows, frames, padding, full), found))
        self.assertEqual(wrong, [])

    def test_frames_with_gaps_only_between_them_are_found(self):
        rng = np.random.default_rng(5)
        for columns, gap in ((3, 5), (5, 2), (4, 3)):
            frames = [blob(rng, 40, 40) for _ in range(columns)]
            sheet = np.zeros((40, columns * 40 + (columns - 1) * gap, 4), np.uint8)
            for i, frame in enumerate(frames):
                sheet[:, i * (40 + gap) : i * (40 + gap) + 40, 3] = frame * 255
            sheet[..., :3] = 255
            found = find_layout(sheet)
            self.assertEqual((found.columns, found.rows), (columns, 1))
            # However the borders are shared out, each frame is in its own part.
            grid = Grid(found.columns, 1, found.margin, found.gap)
            for i, frame in enumerate(frames):
                self.assertAlmostEqual(
                    grid.cut(sheet, i)[..., 3].sum() / (frame * 255).astype(int).sum(), 1.0, delta=0.02
                )

    def test_frames_that_touch_their_borders_or_are_full_are_found_and_single_ones_left(self):
        rng = np.random.default_rng(35)
        flames = [
            make(texture({"step": "flow", "seed": i}, size=48, frames=32, seed=i)).pixels for i in range(4)
        ]
        evolve = {"curve": [[0, 0], [1, 0.5]]}
        clouds = [
            make(
                texture(
                    {"step": "cloud", "across": 2 + i, "evolve": evolve},
                    size=48,
                    frames=32,
                    seed=i,
                    data=True,
                )
            ).pixels
            for i in range(4)
        ]
        right = {"flames": 0, "clouds": 0, "single": 0}
        for turn in range(60):
            columns, rows = int(rng.integers(3, 7)), int(rng.integers(2, 6))
            for kind, some in (("flames", flames), ("clouds", clouds)):
                frames = some[turn % 4][:: max(32 // (columns * rows), 1)]
                low = 10 if kind == "flames" else 0
                sheet = np.zeros((rows * (48 - low), columns * (48 - low), 4), np.float32)
                for i in range(min(columns * rows, len(frames))):
                    row, column = divmod(i, columns)
                    part = frames[i][: 48 - low, low // 2 : 48 - low // 2]
                    sheet[
                        row * (48 - low) : (row + 1) * (48 - low),
                        column * (48 - low) : (column + 1) * (48 - low),
                    ] = part
                got = find_layout((sheet * 255).astype(np.uint8))
                right[kind] += got[:2] == (columns, rows)
            one = (flames, clouds)[turn % 2][turn % 4][int(rng.integers(4, 32))] if turn % 3 else None
            if one is None:
                high, wide = (int(rng.choice([64, 128, 256])) for _ in range(2))
                slope = np.linspace(0, 1, wide)[None, :] * rng.uniform(0.2, 1) + np.linspace(0, 1, high)[
                    :, None
                ] * rng.uniform(0, 1)
                one = np.repeat((slope / slope.max())[..., None] ** rng.uniform(0.5, 2), 4, axis=2)
            right["single"] += find_layout((one * 255).astype(np.uint8))[:2] == (1, 1)
        self.assertGreaterEqual(min(right.values()), 57, right)

    def test_single_pictures_are_no_sheets(self):
        for steps in (
            ({"step": "dot"},),
            ({"step": "ring"},),
            ({"step": "cloud"},),
            ({"step": "scorch"},),
            ({"step": "bolt"},),
            ({"step": "crack"},),
        ):
            made = make(texture(*steps, size=128)).pixels[0]
            self.assertEqual(find_layout((made * 255).astype(np.uint8))[:3], (1, 1, 1), steps)

    def test_a_sheet_brought_in_cut_apart_and_laid_again_is_the_same(self):
        rng = np.random.default_rng(9)
        frames = rng.integers(0, 256, (8, 16, 16, 4)).astype(np.uint8)
        sheet = laid_out(frames, 2)
        grid = grid_for(8, 2)
        entry = Texture(
            name="t", file="s.png", data=True, columns=grid.columns, rows=grid.rows, frames=8, margin=2, gap=4
        )
        build = as_build(entry, (16, 16))
        self.assertEqual((build.build.size, build.frames, build.file), (16, 8, ""))
        made = with_files(build, {"s.png": Raw(sheet, False, True)})
        again = laid_out(np.rint(made.pixels * 255).astype(np.uint8), 2)
        np.testing.assert_array_equal(again, sheet)

    def test_frames_are_left_out_and_put_in_order(self):
        step = {
            "step": "dot",
            "radius": {"curve": [{"x": 0, "y": 0.1, "ease": "linear"}, {"x": 1, "y": 0.9, "ease": "linear"}]},
        }
        whole = make(texture(step, frames=6)).pixels
        some = texture(step, frames=6, build={"order": [4, 0, 0, 9, 2]})
        self.assertEqual(some.count, 4, "a frame that is not made is left out")
        np.testing.assert_array_equal(make(some).pixels, whole[[4, 0, 0, 2]])
        none = texture(step, frames=6, build={"order": [8]})
        self.assertEqual(make(none).pixels.shape[0], 6)

    def test_trimming_crops_all_frames_to_what_is_seen_in_any(self):
        step = {"step": "dot", "softness": 0.3, "radius": {"curve": [[0, 0.2], [1, 0.4]]}}
        plain, tight = (
            make(texture(step, size=64, frames=3, build={"trim": trim})).pixels[..., 3]
            for trim in (False, True)
        )
        rows = np.flatnonzero((tight > 1 / 255).any(axis=(0, 2)))
        self.assertLessEqual(rows[0], 4)
        self.assertGreaterEqual(rows[-1], 59)
        # Frames keep their sizes beside each other.
        self.assertAlmostEqual(tight[0].sum() / tight[2].sum(), plain[0].sum() / plain[2].sum(), delta=0.03)

    def test_sizes_are_halved_to_powers_of_two(self):
        self.assertEqual(
            [halved(size) for size in (1024, 1000, 513, 512, 300, 8, 5, 4)],
            [512, 512, 512, 256, 256, 4, 4, 4],
        )
        self.assertEqual([power_below(size) for size in (1, 4, 7, 100, 5000)], [4, 4, 4, 64, 1024])


class PackTest(unittest.TestCase):
    STEPS = {
        Channel.RED: ({"step": "dot"},),
        Channel.GREEN: ({"step": "cloud"}, {"step": "levels", "bend": 2}),
        Channel.BLUE: ({"step": "rays"}, {"step": "fade"}),
        Channel.ALPHA: ({"step": "cells"}, {"step": "invert"}),
    }

    def test_four_masks_are_packed_and_unpacked_unchanged(self):
        sources = {channel: MaskSource(texture(*steps, size=48)) for channel, steps in self.STEPS.items()}
        whole = packed("masks", sources)
        made = make(whole).pixels[0]
        self.assertTrue(whole.data)
        for i, channel in enumerate(self.STEPS):
            np.testing.assert_array_equal(made[..., i], light(*self.STEPS[channel], size=48), channel)
        masks = unpacked(whole)
        self.assertEqual(
            [one.name for one in masks], ["masks red", "masks green", "masks blue", "masks alpha"]
        )
        for one, (channel, steps) in zip(masks, self.STEPS.items(), strict=True):
            np.testing.assert_array_equal(make(one).pixels[0, ..., 3], light(*steps, size=48), channel)
        # What was packed can be packed anew, from its channels.
        again = packed("again", {channel: MaskSource(whole, channel) for channel in self.STEPS})
        np.testing.assert_array_equal(make(again).pixels, make(whole).pixels)

    def test_strength_masks_and_order_of_packs_stay_when_they_are_unpacked_and_packed_anew(self):
        whole = texture(
            {"step": "cloud"},
            {"step": "pack", "channel": "green", "strength": 0.6},
            {"step": "dot"},
            {"step": "mask", "channel": "green"},
            {"step": "pack", "channel": "red", "strength": {"curve": [[0, 0.8], [1, 0.3]]}},
            {"step": "rays"},
            {"step": "mask", "channel": "red"},
            {"step": "pack", "channel": "alpha"},
            {"step": "cells"},
            {"step": "pack", "channel": "green"},
            size=48,
            frames=3,
            data=True,
        )
        made = make(whole).pixels
        masks = unpacked(whole)
        self.assertEqual([one.name for one in masks], ["t red", "t green", "t alpha"])
        for one, at in zip(masks, (0, 1, 3), strict=True):
            for channel in range(4):
                np.testing.assert_allclose(
                    make(one).pixels[..., channel], made[..., at], atol=1e-6, err_msg=one.name
                )
        order = (Channel.RED, Channel.GREEN, Channel.ALPHA)
        for sources in (
            {c: MaskSource(whole, c) for c in order},
            {c: MaskSource(one) for c, one in zip(order, masks, strict=True)},
        ):
            np.testing.assert_allclose(
                make(packed("again", sources)).pixels[..., [0, 1, 3]], made[..., [0, 1, 3]], atol=1e-6
            )
        # A mask of what was packed into all of them.
        all_of_it = texture(
            {"step": "cloud"},
            {"step": "pack", "channel": "all"},
            {"step": "dot"},
            {"step": "mask", "channel": "blue"},
            {"step": "pack", "channel": "red"},
            size=48,
            data=True,
        )
        red = unpacked(all_of_it)[0]
        np.testing.assert_allclose(make(red).pixels[0, ..., 0], make(all_of_it).pixels[0, ..., 0], atol=1e-6)
        # Into other channels, those that help among them.
        turned = packed(
            "turned",
            {Channel.GREEN: MaskSource(whole, Channel.RED), Channel.RED: MaskSource(whole, Channel.ALPHA)},
        )
        np.testing.assert_allclose(make(turned).pixels[..., [1, 0]], made[..., [0, 3]], atol=1e-6)

    def test_a_packed_one_keeps_its_cover_when_its_light_ends(self):
        fading = {"curve": [[0, 1], [0.9, 0], [1, 0]]}
        made = make(
            texture(
                {"step": "cloud"},
                {"step": "pack", "channel": "red"},
                {"step": "dot", "strength": fading},
                size=16,
                frames=5,
                data=True,
            )
        )
        self.assertTrue((np.diff(made.pixels[..., 3].max(axis=(1, 2))) <= 0).all())
        self.assertEqual(made.pixels[-1, ..., 3].max(), 0.0)
        # Where no step comes behind the pack all of it is covered.
        self.assertEqual(
            make(texture({"step": "cloud"}, {"step": "pack", "channel": "red"}, size=16, data=True))
            .pixels[..., 3]
            .min(),
            1.0,
        )

    def test_a_file_of_any_sides_covers_as_much_as_a_build(self):
        pixels = np.full((64, 128, 4), 255, np.uint8)
        built = as_build(Texture(name="f", file="f.png"), (128, 64))
        np.testing.assert_allclose(
            with_files(built, {"f.png": Raw(pixels, False, True)}).pixels[0, ..., 3], 1.0
        )

    def test_files_give_their_channels(self):
        rng = np.random.default_rng(7)
        pixels = rng.integers(0, 256, (32, 32, 4)).astype(np.uint8)
        entry = Texture(name="f", file="f.png", data=True)
        order = [Channel.BLUE, Channel.ALPHA, Channel.RED, Channel.GREEN]
        whole = packed("m", dict(zip(self.STEPS, (MaskSource(entry, one) for one in order), strict=True)), 32)
        made = with_files(whole, {"f.png": Raw(pixels, False, True)}).pixels[0]
        np.testing.assert_allclose(made * 255, pixels[..., [2, 3, 0, 1]], atol=1e-3)

    def test_nothing_and_too_much_are_refused_in_a_sentence(self):
        with self.assertRaises(EffectError):
            packed("m", {})
        long = texture(*({"step": "dot"},) * 40)
        with self.assertRaises(EffectError) as wrong:
            packed("m", {Channel.RED: MaskSource(long), Channel.GREEN: MaskSource(long)})
        self.assertIn("64", wrong.exception.reason)

    def test_steps_go_through_the_clipboard(self):
        steps = texture(
            {"step": "flow", "kind": "ring", "obstacles": [{"at": [0.2, 0.1]}]},
            {"step": "strokes", "strokes": [{"points": "0,0 0.1,0.2"}]},
            {"step": "levels", "bend": {"curve": [[0, 1], [1, 3]]}, "on": False},
        ).build.steps
        self.assertEqual(read_steps(json.loads(json.dumps(steps_data(steps)))), steps)
        for wrong in (
            {},
            [],
            {"format": "pale-ember/steps", "steps": [{"step": "nonsense"}]},
            {"format": "pale-ember/steps", "steps": 3},
        ):
            with self.assertRaises(EffectError):
                read_steps(wrong)


class MemoryTest(unittest.TestCase):
    def test_what_is_remembered_changes_nothing(self):
        rng = np.random.default_rng(12)
        kinds = ("dot", "cloud", "warp", "levels", "fade", "normals", "invert", "color", "pack", "swirl")
        memory, steps = BuildMemory(), [{"step": "cloud"}]
        for _ in range(40):
            turn = rng.random()
            if turn < 0.5 or not steps:
                steps.insert(int(rng.integers(len(steps) + 1)), {"step": str(rng.choice(kinds))})
            elif turn < 0.7:
                steps.pop(int(rng.integers(len(steps))))
            else:
                steps[int(rng.integers(len(steps)))]["strength"] = round(float(rng.random()), 2)
            entry = texture(*steps[:8], size=24, frames=2)
            remembered, fresh = make(entry, how=Making(memory=memory)), make(entry)
            np.testing.assert_array_equal(remembered.pixels, fresh.pixels)
            self.assertEqual(remembered.normals is None, fresh.normals is None)


if __name__ == "__main__":
    unittest.main()
