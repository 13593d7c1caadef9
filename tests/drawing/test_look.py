"""What each field of the look does to light, by arithmetic."""

import unittest

import numpy as np

from pale_ember.drawing.styles import BLEND_FEATURES, CHANNELS, FACINGS
from pale_ember.effect.chapters.stage import Camera
from pale_ember.effect.kinds import Blend, Channel, Facing

from .light_case import FLAT, METRE, NOTHING, SIZE, WHITE, LightCase, particle, plate, texture


class BlendTest(LightCase):
    def test_two_added_dots_give_their_sum_whatever_their_order(self):
        a, b = (
            particle(color=(0.5, 0.1, 0), opacity=0.6, intensity=3),
            particle((0.1, 0, 0), color=(0, 0.4, 2), opacity=0.9),
        )
        both = self.light([((a, b), {"blend": "add"})], environment=NOTHING)
        alone = (
            self.light([(a, {"blend": "add"})], environment=NOTHING),
            self.light([(b, {"blend": "add"})], environment=NOTHING),
        )
        np.testing.assert_allclose(both, alone[0] + alone[1], atol=3e-3)
        np.testing.assert_allclose(
            both, self.light([((b, a), {"blend": "add"})], environment=NOTHING), atol=1e-3
        )

    def test_mix_is_alpha_at_0_and_add_at_1_and_between_them_between(self):
        behind = (particle(size=3, color=(0.2, 0.5, 0.7)), {})
        looks = [
            self.light([behind, (particle(opacity=0.7, color=(0.9, 0.3, 0.1), mix=mix), {"blend": blend})])
            for blend, mix in (("alpha", 0), ("mix", 0), ("add", 0), ("mix", 1), ("mix", 0.5))
        ]
        np.testing.assert_allclose(looks[0], looks[1], atol=1e-3)
        np.testing.assert_allclose(looks[2], looks[3], atol=1e-3)
        np.testing.assert_allclose(looks[4], (looks[0] + looks[2]) / 2, atol=2e-3)

    def test_multiply_over_white_is_the_texture_and_white_changes_nothing(self):
        back = (particle(size=9, color=(1, 1, 1)), {}, WHITE)
        for color in ((0.2, 0.5, 0.8), (1, 1, 1), (0, 0, 0)):
            worn = {"picture": texture([plate(color)])}
            found = self.middle([back, (particle(), {"blend": "multiply"}, worn)])
            np.testing.assert_allclose(found[:3], color, atol=0.006)
        half = self.middle(
            [
                back,
                (
                    particle(opacity=0.5),
                    {"blend": "multiply"},
                    {"picture": texture([plate((0.2, 0.2, 0.2))])},
                ),
            ]
        )
        np.testing.assert_allclose(half[:3], 0.6, atol=0.006)

    def test_cutout_has_two_levels_and_hides_by_depth(self):
        slope = np.linspace(0, 1, 32)[None, :] * np.ones((32, 1))
        worn = {"picture": texture([slope])}
        found = self.light(
            [(particle(size=2), {"blend": "cutout", "cutoff": 0.4}, worn)], environment=NOTHING
        )
        self.assertEqual(set(np.unique(found[..., 3])), {0.0, 1.0})
        row = found[SIZE[1] // 2, :, 3]
        wide = row.sum() / (2 * METRE)
        self.assertAlmostEqual(wide, 0.6, delta=0.03)
        near, far = particle((0, 0, 1), color=(1, 0, 0)), particle(size=2, color=(0, 1, 0))
        look = {"blend": "cutout", "cutoff": 0.5}
        for order in ((near, far), (far, near)):
            np.testing.assert_allclose(self.middle([(order, look, WHITE)])[:3], (1, 0, 0), atol=1e-3)

    def test_opacity_of_what_is_cut_out_counts(self):
        self.assertEqual(
            self.middle(
                [(particle(opacity=0.3), {"blend": "cutout", "cutoff": 0.5}, WHITE)], environment=NOTHING
            )[3],
            0,
        )

    def test_order_between_layers_goes_before_the_timeline(self):
        red, green = (particle(color=(1, 0, 0)), {"order": 1}, WHITE), (particle(color=(0, 1, 0)), {}, WHITE)
        np.testing.assert_allclose(self.middle([red, green])[:3], (1, 0, 0), atol=1e-3)

    def test_each_kind_has_its_row(self):
        self.assertEqual(set(BLEND_FEATURES), set(Blend))
        self.assertEqual(set(FACINGS), set(Facing))
        self.assertEqual(set(CHANNELS), set(Channel))


class SheetTest(LightCase):
    reds = [plate((level, 0, 0)) for level in (0.1, 0.3, 0.6, 0.9)]

    def test_frames_are_chosen_wrapped_and_held(self):
        worn = {"picture": texture(self.reds, columns=4)}
        for frame, look, level in (
            (0, {}, 0.1),
            (1.99, {}, 0.3),
            (3.5, {}, 0.9),
            (4.2, {}, 0.1),
            (-0.5, {}, 0.9),
            (9, {"frame_end": "hold"}, 0.9),
            (-3, {"frame_end": "hold"}, 0.1),
        ):
            self.assertAlmostEqual(
                self.middle([(particle(frame=frame), look, worn)], environment=NOTHING)[0], level, delta=0.005
            )

    def test_blended_half_way_is_the_mean_and_a_draft_leaves_it_out(self):
        worn = {"picture": texture(self.reds, columns=4)}
        found = self.middle([(particle(frame=1.5), {"frame_blend": True}, worn)], environment=NOTHING)
        self.assertAlmostEqual(found[0], (0.3 + 0.6) / 2, delta=0.005)
        held = self.middle(
            [(particle(frame=3.5), {"frame_blend": True, "frame_end": "hold"}, worn)], environment=NOTHING
        )
        self.assertAlmostEqual(held[0], 0.9, delta=0.005)
        draft = self.middle(
            [(particle(frame=1.5), {"frame_blend": True}, worn)], environment=NOTHING, draft=True
        )
        self.assertAlmostEqual(draft[0], 0.3, delta=0.005)

    def test_frames_do_not_bleed_at_any_size(self):
        worn = {"picture": texture([plate((1, 0, 0)), plate((0, 1, 0)), plate((0, 0, 1))], columns=3)}
        for size in (4, 1, 0.3, 0.1, 0.05):
            found = self.light([(particle(size=size, frame=1), {}, worn)], environment=NOTHING)
            self.assertEqual(found[..., 0].max(), 0, size)
            self.assertEqual(found[..., 2].max(), 0, size)
            self.assertGreater(found[..., 1].max(), 0.1, size)

    def test_blending_along_motion_moves_what_is_there(self):
        def bar(at):
            frame = np.zeros((32, 32), np.float32)
            frame[:, at : at + 4] = 1
            return frame

        move = np.zeros((2, 32, 32, 2), np.float32)
        move[..., 0] = 8 / 32
        worn = {"picture": texture([bar(8), bar(16)], columns=2, motion=move, wrap=True)}
        look = {"frame_blend": True}
        for share in (0.25, 0.5, 0.75):
            row = self.light([(particle(size=2, frame=share), look, worn)], environment=NOTHING)[
                SIZE[1] // 2, :, 3
            ]
            at = (row * np.arange(len(row))).sum() / row.sum()
            want = SIZE[0] / 2 + ((8 + 2 + 8 * share) / 32 - 0.5) * 2 * METRE
            self.assertAlmostEqual(at, want, delta=1.5)
            self.assertGreater(row.max(), 0.95, "a fade would show two faint bars")

    def test_a_channel_is_a_mask(self):
        worn = {"picture": texture([plate((0.2, 0.4, 0.6), alpha=0.8)], data=True)}
        for channel, level in (("red", 0.2), ("green", 0.4), ("blue", 0.6), ("alpha", 0.8)):
            found = self.middle(
                [(particle(color=(1, 1, 1)), {"channel": channel}, worn)], environment=NOTHING
            )
            np.testing.assert_allclose(found, level, atol=0.004)

    def test_mirrored_pictures_are_mirrored(self):
        slope = np.linspace(0, 1, 32)[None, :] * np.ones((32, 1))
        worn = {"picture": texture([slope])}
        plain = self.light([(particle(dice=(0, 0.7)), {"mirror": 0.5}, worn)], environment=NOTHING)
        turned = self.light([(particle(dice=(0, 0.3)), {"mirror": 0.5}, worn)], environment=NOTHING)
        np.testing.assert_allclose(turned, plain[:, ::-1], atol=0.01)
        self.assertGreater(np.abs(turned - plain).max(), 0.5)

    def test_sprites_are_cut_to_their_picture_and_nothing_of_it_is_lost(self):
        rng = np.random.default_rng(4)
        at = (np.arange(48) + 0.5) / 24 - 1
        x, y = np.meshgrid(at, at)
        for _ in range(6):
            cx, cy, r = rng.uniform(-0.4, 0.4), rng.uniform(-0.4, 0.4), rng.uniform(0.15, 0.5)
            frame = np.clip(1 - np.hypot(x - cx, (y - cy) * rng.uniform(0.5, 3)) / r, 0, 1)
            cut = texture([frame])
            whole = texture([frame])
            whole.corners[:] = np.array([(-1, -1), (1, -1), (-1, 1), (1, 1), (1, 1), (1, 1), (1, 1), (1, 1)])
            self.assertLess(cut.covered, 0.75)
            a, b = (
                self.light([(particle(size=2), {}, {"picture": one})], environment=NOTHING)
                for one in (cut, whole)
            )
            np.testing.assert_allclose(a, b, atol=0.006)


class ShapeTest(LightCase):
    def ends(self, rows, look, worn=WHITE, **how):
        seen = np.argwhere(self.light([(rows, look, worn)], environment=NOTHING, **how)[..., 3] > 0.5)
        return np.ptp(seen[:, 1]) + 1, np.ptp(seen[:, 0]) + 1, seen.mean(axis=0)

    def test_a_streak_is_as_long_as_its_way_on_the_screen(self):
        for way in ((0.8, 0, 0), (0, -1.2, 0), (0, 0, 0.5)):
            wide, high, _ = self.ends(particle(size=0.1, way=way), {"facing": "streak"})
            self.assertAlmostEqual(wide, 0.1 * METRE + abs(way[0]) * METRE, delta=2)
            self.assertAlmostEqual(high, 0.1 * METRE + abs(way[1]) * METRE, delta=2)

    def test_a_streak_turns_about_its_middle_picture_and_all(self):
        slope = np.linspace(0, 1, 32)[:, None] * np.ones((1, 32))
        worn = {"picture": texture([slope])}
        shown = [
            self.light(
                [(particle(size=0.3, way=(0, 0.9, 0), angle=angle), {"facing": "streak"}, worn)],
                environment=NOTHING,
            )[..., 3]
            for angle in (0, np.pi, np.pi / 2)
        ]
        rows = [np.argwhere(one > 0.05)[:, 0] for one in shown]
        self.assertAlmostEqual(np.ptp(rows[0]), np.ptp(rows[1]), delta=8)
        mean = [(one.sum(axis=1) * np.arange(SIZE[1])).sum() / one.sum() for one in shown[:2]]
        self.assertGreater(mean[0], mean[1] + 10, "the bright end is the other one")
        self.assertAlmostEqual(np.ptp(np.argwhere(shown[2] > 0.05)[:, 1]), np.ptp(rows[0]), delta=8)

    def test_a_slow_streak_is_round_and_least_and_most_hold(self):
        wide, high, _ = self.ends(particle(size=0.4, way=(0.001, 0, 0)), {"facing": "streak"})
        self.assertAlmostEqual(wide, high, delta=1)
        wide, _, _ = self.ends(
            particle(size=0.1, way=(0.001, 0, 0)), {"facing": "streak", "streak_least": 0.5}
        )
        self.assertAlmostEqual(wide, 0.6 * METRE, delta=2)
        wide, _, _ = self.ends(particle(size=0.1, way=(3, 0, 0)), {"facing": "streak", "streak_most": 0.4})
        self.assertAlmostEqual(wide, 0.5 * METRE, delta=2)

    def test_flat_lies_upright_stands_and_travel_goes_along(self):
        above = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=90, view=40)
        wide, high, _ = self.ends(particle(size=(1, 0.5)), {"facing": "flat"}, camera=above)
        self.assertAlmostEqual(wide, METRE, delta=1.5)
        self.assertAlmostEqual(high, 0.5 * METRE, delta=1.5)
        _, high, _ = self.ends(
            particle(size=1), {"facing": "flat"}, camera=FLAT.model_copy(update={"pitch": 30})
        )
        self.assertAlmostEqual(high, 0.5 * METRE, delta=6)
        _, high, _ = self.ends(
            particle(size=1), {"facing": "upright"}, camera=FLAT.model_copy(update={"pitch": 60})
        )
        self.assertAlmostEqual(high, 0.5 * METRE, delta=6)
        wide, high, _ = self.ends(particle(size=(0.2, 1), way=(5, 0, 0)), {"facing": "travel"}, camera=above)
        self.assertAlmostEqual(wide, METRE, delta=1.5)
        self.assertAlmostEqual(high, 0.2 * METRE, delta=1.5)

    def test_angle_turns_in_each(self):
        above = Camera(target=(0, 0, 0), distance=4, yaw=0, pitch=90, view=40)
        for facing, camera in (("camera", FLAT), ("upright", FLAT), ("flat", above), ("travel", above)):
            row = particle(size=(0.2, 1), angle=np.pi / 2, way=(0, 0, -1))
            wide, high, _ = self.ends(row, {"facing": facing}, camera=camera)
            self.assertAlmostEqual(wide, METRE, delta=1.5, msg=facing)
            self.assertAlmostEqual(high, 0.2 * METRE, delta=1.5, msg=facing)

    def test_an_anchor_puts_the_foot_or_the_head_at_the_place(self):
        for anchor in (-0.5, 0.5):
            _, _, (row, _) = self.ends(particle(size=1), {"anchor": anchor})
            self.assertAlmostEqual(row, SIZE[1] / 2 - 0.5 + anchor * METRE, delta=1)


class NoiseTest(LightCase):
    grain = texture([np.tile(np.linspace(0, 1, 64), (64, 1))], data=True, wrap=True)

    def test_erode_at_0_shows_all_and_at_1_nothing_and_more_eats_more(self):
        grain = texture(
            [np.repeat(np.tile(np.linspace(0, 1, 64), (64, 1))[..., None], 4, axis=2)], data=True, wrap=True
        )
        worn = {**WHITE, "erode": grain}
        look = {"erode": {"amount": 0.5, "edge": 0.05, "inward": 0}}
        plain = self.light([(particle(), {}, WHITE)], environment=NOTHING)[..., 3]
        left = [
            self.light([(particle(erode=much), look, worn)], environment=NOTHING)[..., 3]
            for much in (0, 0.25, 0.5, 0.75, 1)
        ]
        np.testing.assert_array_equal(left[0], plain)
        self.assertEqual(left[-1].max(), 0)
        sums = [each.sum() for each in left]
        self.assertEqual(sums, sorted(sums, reverse=True))
        np.testing.assert_allclose(np.array(sums) / sums[0], [1, 0.75, 0.5, 0.25, 0], atol=0.06)

    def test_the_rim_glows_only_where_it_is_eaten(self):
        grain = texture(
            [np.repeat(np.tile(np.linspace(0, 1, 64), (64, 1))[..., None], 4, axis=2)], data=True, wrap=True
        )
        look = {
            "erode": {"amount": 0.5, "edge": 0.1, "inward": 0, "rim_color": "#ff0000", "rim_intensity": 5}
        }
        worn = {**WHITE, "erode": grain}
        whole = self.light([(particle(erode=0, color=(0, 1, 0)), look, worn)], environment=NOTHING)
        self.assertEqual(whole[..., 0].max(), 0)
        half = self.light([(particle(erode=0.5, color=(0, 1, 0)), look, worn)], environment=NOTHING)
        self.assertGreater(half[..., 0].max(), 1)
        self.assertLess((half[..., 0] > 0.5).mean(), 0.4 * (half[..., 3] > 0.5).mean())

    def test_bend_moves_points_and_shimmer_keeps_the_mean(self):
        line = np.zeros((64, 64), np.float32)
        line[:, 30:34] = 1
        from pale_ember.textures.shipped import plain_cloud

        worn = {"picture": texture([line], wrap=True), "bend": plain_cloud(), "shimmer": plain_cloud()}
        straight = self.light([(particle(size=2), {}, worn)], environment=NOTHING)[..., 3]
        bent = self.light(
            [(particle(size=2, bend=0.2), {"bend": {"amount": 0.2}}, worn)], environment=NOTHING
        )[..., 3]
        at = [
            (one * np.arange(SIZE[0])).sum(axis=1)[40:120] / np.maximum(one.sum(axis=1)[40:120], 1e-6)
            for one in (straight, bent)
        ]
        self.assertLess(np.ptp(at[0]), 0.5)
        self.assertGreater(np.ptp(at[1]), 4)
        other = self.light(
            [(particle(size=2, bend=0.2, dice=(0.61, 0)), {"bend": {"amount": 0.2}}, worn)],
            environment=NOTHING,
        )[..., 3]
        self.assertGreater(np.abs(other - bent).max(), 0.3, "each particle has its own place on the noise")
        wide = {**WHITE, "shimmer": plain_cloud()}
        lit = self.light(
            [(particle(size=2, shimmer=0.8), {"shimmer": {"amount": 0.8}}, wide)], environment=NOTHING
        )
        inside = lit[40:120, 40:120, 0]
        self.assertAlmostEqual(inside.mean(), 1, delta=0.12)
        self.assertGreater(inside.std(), 0.1)

    def test_pan_slides_with_the_seconds_lived(self):
        grain = texture(
            [np.repeat(np.tile(np.linspace(0, 1, 64), (64, 1))[..., None], 4, axis=2)], data=True, wrap=True
        )
        look = {"shimmer": {"amount": 1, "pan": [0.25, 0]}}
        worn = {**WHITE, "shimmer": grain}
        a = self.light([(particle(shimmer=1, lived=0), look, worn)], environment=NOTHING)[80, 60:100, 0]
        b = self.light([(particle(shimmer=1, lived=1), look, worn)], environment=NOTHING)[80, 60:100, 0]
        c = self.light([(particle(shimmer=1, lived=4), look, worn)], environment=NOTHING)[80, 60:100, 0]
        self.assertGreater(np.abs(a - b).max(), 0.3)
        np.testing.assert_allclose(a, c, atol=0.02)
        # To the right: a little later what is there was a little to the left.
        soon = self.light([(particle(shimmer=1, lived=0.1), look, worn)], environment=NOTHING)[80, 60:100, 0]
        np.testing.assert_allclose(
            soon[2:10], np.interp(np.arange(2, 10) - 0.025 * METRE, np.arange(40), a), atol=0.05
        )

    def test_erosion_eats_an_opaque_picture_as_evenly_as_its_noise(self):
        grain = texture(
            [np.repeat(np.tile(np.linspace(0, 1, 64), (64, 1))[..., None], 4, axis=2)], data=True, wrap=True
        )
        for amount in (0.25, 0.5, 0.75):
            look = {"erode": {"amount": 0.5, "edge": 0.02}}
            left = (
                self.light(
                    [(particle(size=2, erode=amount), look, {**WHITE, "erode": grain})], environment=NOTHING
                )[..., 3].sum()
                / (2 * METRE) ** 2
            )
            self.assertAlmostEqual(left, 1 - amount, delta=0.04)

    def test_from_far_away_what_passes_close_to_the_eye_is_seen(self):
        far = Camera(target=(0, 0, 0), distance=1000, yaw=0, pitch=0, view=40)
        for close in (0.5, 2.0, 4.9):
            found = self.light(
                [(particle((0, 0, 1000 - close), size=0.2 * close), {}, WHITE)],
                environment=NOTHING,
                camera=far,
            )
            self.assertGreater(found[80, 80, 3], 0.9, close)

    def test_every_pan_goes_to_the_right_and_up(self):
        spot = np.zeros((64, 64), np.float32)
        spot[28:36, 28:36] = 1.0
        grain = texture([np.repeat(spot[..., None], 4, axis=2)], data=True, wrap=True)
        for name, edits in (("erode", {"inward": 0, "edge": 0.1}), ("shimmer", {})):
            middles = []
            for lived in (0.0, 1.0):
                look = {name: {"amount": 1, "pan": [0.1, 0.2], **edits}}
                amount = 0.5 if name == "erode" else 1.0
                found = self.light(
                    [
                        (
                            particle(size=2, lived=lived, dice=(0, 0), **{name: amount}),
                            look,
                            {**WHITE, name: grain},
                        )
                    ],
                    environment=NOTHING,
                )[..., 0]
                # The pattern lies at a place of the particle's own; over a whole picture its light goes
                # around.
                seen = (
                    np.maximum(
                        found[80 - int(METRE) : 80 + int(METRE), 80 - int(METRE) : 80 + int(METRE)] - 1e-3, 0
                    )
                    ** 2
                )
                wave = np.exp(2j * np.pi * np.arange(len(seen)) / len(seen))
                middles.append(
                    (np.angle((seen.sum(axis=0) * wave).sum()), np.angle((seen.sum(axis=1) * wave).sum()))
                )
            (x0, y0), (x1, y1) = middles
            gone = np.angle(np.exp(1j * np.array([x1 - x0, y0 - y1]))) / (2 * np.pi)
            np.testing.assert_allclose(gone, (0.1, 0.2), atol=0.02, err_msg=name)


if __name__ == "__main__":
    unittest.main()
