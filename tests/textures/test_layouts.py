"""How the frames of a sheet lie is found by looking at it."""

import unittest

import numpy as np

from pale_ember.textures.sheets import Layout, find_layout


class LayoutTest(unittest.TestCase):
    def sheet(self, columns, rows, side, frames, padding):
        pixels = np.zeros((rows * side, columns * side, 4), np.uint8)
        at = (np.arange(side) + 0.5) / side * 2 - 1
        x, y = np.meshgrid(at, at)
        for i in range(frames):
            t = i / max(frames - 1, 1)
            reach = (0.45 + 0.4 * t) * (1 - padding)
            blob = np.clip(1.2 - np.hypot(x - 0.05 * np.sin(5 * t), y) / reach, 0, 1) * (
                0.6 + 0.4 * np.cos(9 * x + 4 * t)
            )
            row, column = divmod(i, columns)
            cut = pixels[row * side : (row + 1) * side, column * side : (column + 1) * side]
            cut[..., 3] = 255 * np.clip(blob, 0, 1)
            cut[..., :3] = 200
        return pixels

    def test_sheets_are_seen_as_they_are_laid_out(self):
        right = total = 0
        for columns, rows, frames in (
            (4, 4, 16),
            (8, 8, 64),
            (5, 3, 15),
            (6, 2, 12),
            (4, 4, 13),
            (8, 1, 8),
            (1, 6, 6),
            (3, 3, 9),
        ):
            for padding in (0.05, 0.3):
                total += 1
                right += find_layout(self.sheet(columns, rows, 32, frames, padding)) == Layout(
                    columns, rows, frames
                )
        self.assertGreaterEqual(right, total - 1)

    def test_one_picture_is_one_frame(self):
        for pixels in (
            self.sheet(1, 1, 64, 1, 0.1),
            np.full((32, 32, 4), 90, np.uint8),
            np.zeros((16, 16, 4), np.uint8),
        ):
            self.assertEqual(find_layout(pixels), Layout(1, 1, 1))
        ring = self.sheet(1, 1, 64, 1, 0.0)
        ring[24:40, 24:40, 3] = 0
        self.assertEqual(find_layout(ring), Layout(1, 1, 1))
