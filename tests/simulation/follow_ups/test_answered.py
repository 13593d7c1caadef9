"""Which events are answered, in which order, and how many births each has: against plain loops."""

import unittest

import numpy as np

from pale_ember.effect.kinds import FollowAim
from pale_ember.simulation.follow_ups.answered import (
    ANSWERED,
    CHANCE,
    DIGITS,
    OUTSIDE,
    SLOW,
    count_births,
    find_since_begin,
    give,
    list_births,
    put_in_order,
    weigh,
)
from pale_ember.simulation.layout import payload_columns, recording
from pale_ember.simulation.layout.program import Births, Clock
from pale_ember.simulation.values.dice import random_share

RATE = 60.0


def random_events(roll, count, steps=5, first=-2):
    what, who = np.zeros((count, recording.COLUMNS), np.float32), np.zeros((count, 4), np.int64)
    what[:, recording.LEFT] = roll.choice([0.0, 1 / RATE, *roll.uniform(0, 1 / RATE, 20)], count)
    what[:, recording.PLACE : recording.AGE] = roll.uniform(-3, 3, (count, 9))
    normal = what[:, recording.NORMAL : recording.NORMAL + 3]
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    normal[roll.uniform(size=count) < 0.3] = 0.0
    who[:, recording.STEP] = np.sort(roll.integers(first, first + steps, count))
    who[:, recording.NUMBER], who[:, recording.INDEX] = (
        roll.integers(0, 1 << 32, count),
        roll.integers(0, 4, count),
    )
    return what, who


def counted_by_hand(what, who, order, starts, room, looked):
    """Return which births are listed, as event and number, and how many each of five steps refuses."""
    wanted, refused = [], np.zeros(5, int)
    for step in range(-2, 3):
        left = room
        here = [k for k in order if who[k, recording.STEP] == step]
        for i, k in enumerate(here):
            count = 1 + int(random_share(99, starts[k : k + 1])[0].astype(float) * 3.0) if i < looked else 0
            taken = min(count, left)
            left -= taken
            wanted += [(k, j) for j in range(taken)]
            if step >= 0 or (step == -1 and what[k, recording.LEFT] == 0.0):
                refused[step + 2] += count - taken
            if i >= looked and step >= 0:
                refused[step + 2] += 1
    return wanted, refused


class ChoosingTest(unittest.TestCase):
    def setUp(self):
        self.roll = np.random.default_rng(8)

    def weighed(self, what, who, clock, chance=0.6, least=1.5, first=-2):
        n = len(what)
        clocks, starts, keys, verdict = (
            np.empty(n),
            np.empty(n, np.uint32),
            np.empty(n, np.uint64),
            np.empty(n, np.int32),
        )
        weigh(what, who, clock, 77, 1234, chance, least, first, clocks, starts, keys, verdict)
        return clocks, starts, keys, verdict

    def test_events_are_left_out_for_the_reason_that_comes_first(self):
        what, who = random_events(self.roll, 4000)
        clock = Clock(rate=RATE, duration=0.0, whole=0, begin=1 / RATE, length=2 / RATE)
        clocks, starts, _, verdict = self.weighed(what, who, clock)
        speed = np.linalg.norm(what[:, recording.VELOCITY : recording.VELOCITY + 3].astype(float), axis=1)
        local = (who[:, recording.STEP] + 1) / RATE - what[:, recording.LEFT].astype(float) - clock.begin
        wanted = np.where(random_share(1234, starts) < 0.6, ANSWERED, CHANCE)
        wanted = np.where((local >= 0) & (local < clock.length), wanted, OUTSIDE)
        wanted = np.where(speed < 1.5, SLOW, wanted)
        sure = (np.abs(local) > 1e-6) & (np.abs(local - clock.length) > 1e-6) & (np.abs(speed - 1.5) > 1e-5)
        np.testing.assert_array_equal(verdict[sure], wanted[sure])
        self.assertEqual(set(verdict.tolist()), {ANSWERED, SLOW, CHANCE, OUTSIDE})
        np.testing.assert_allclose(clocks, np.clip(local / clock.length, 0, 1), atol=1e-6)
        # Numbers come from the parent's number and the event's place alone.
        _, again, _, _ = self.weighed(what[::-1].copy(), who[::-1].copy(), clock)
        np.testing.assert_array_equal(again[::-1], starts)
        self.assertGreater(len(np.unique(starts)), 3990)

    def test_the_order_is_by_step_and_moment_and_equal_ones_stay_as_they_stand(self):
        for count in (0, 1, 7, 5000):
            what, who = random_events(self.roll, count)
            _, _, keys, verdict = self.weighed(
                what, who, Clock(rate=RATE, duration=0.0, whole=0, begin=-1.0, length=9.0)
            )
            order = np.empty(count, np.int64)
            n = put_in_order(keys, verdict, order, np.empty(count, np.int64), np.empty(DIGITS + 1, np.int64))
            kept = np.flatnonzero(verdict == ANSWERED)
            wanted = kept[np.lexsort((-what[kept, recording.LEFT], who[kept, recording.STEP]))]
            np.testing.assert_array_equal(order[:n], wanted)

    def test_births_are_counted_cut_and_listed_as_by_hand(self):
        for limit, cap, looked in (
            (1000, 1000, 10_000),
            (7, 1000, 10_000),
            (1000, 5, 10_000),
            (1000, 1000, 6),
        ):
            what, who = random_events(self.roll, 300)
            clocks, starts, keys, verdict = self.weighed(
                what, who, Clock(rate=RATE, duration=0.0, whole=0, begin=-1.0, length=9.0)
            )
            order = np.empty(300, np.int64)
            n = put_in_order(keys, verdict, order, np.empty(300, np.int64), np.empty(DIGITS + 1, np.int64))
            low, high = np.full(n, 3.0), np.full(n, 1.0)
            many, listed, each, rest = (np.zeros(k, np.int64) for k in (n, n, 5, 5))
            total = count_births(
                who,
                what,
                order[:n],
                n,
                starts,
                low,
                high,
                99,
                limit,
                cap,
                looked,
                -2,
                many,
                listed,
                each,
                rest,
            )
            wanted, refused = counted_by_hand(what, who, order[:n], starts, min(limit, cap), looked)
            self.assertEqual(total, len(wanted))
            np.testing.assert_array_equal(rest, refused)
            births = Births(
                left=np.empty(total, np.float32),
                clock=np.empty(total),
                number=np.empty(total, np.uint32),
                first=np.concatenate([[0], np.cumsum(each)]),
                rest=rest,
                payload=np.zeros((n, payload_columns.COLUMNS), np.float32),
                of=np.empty(total, np.int32),
            )
            list_births(what, order[:n], n, clocks, starts, listed, births)
            np.testing.assert_array_equal(order[births.of], [k for k, _ in wanted])
            np.testing.assert_array_equal(
                births.number, [np.uint32((int(starts[k]) + j) & 0xFFFFFFFF) for k, j in wanted]
            )
            np.testing.assert_array_equal(births.left, [what[k, recording.LEFT] for k, _ in wanted])
            np.testing.assert_array_equal(births.clock, [clocks[k] for k, _ in wanted])

    def test_axes_point_as_they_are_aimed(self):
        what, _ = random_events(self.roll, 500)
        order, given = np.arange(500), np.empty((500, payload_columns.COLUMNS), np.float32)
        v, normal = (what[:, c : c + 3].astype(float) for c in (recording.VELOCITY, recording.NORMAL))
        hit = np.linalg.norm(normal, axis=1) > 0.5
        into = np.minimum((v * normal).sum(axis=1, keepdims=True), 0.0)
        wanted = {"own": 0 * v, "travel": v, "surface": normal, "mirror": v - 2 * into * normal}
        for aim in FollowAim:
            give(what, order, 500, tuple(FollowAim).index(aim), True, given)
            far = np.linalg.norm(wanted[aim], axis=1, keepdims=True)
            np.testing.assert_allclose(
                given[:, payload_columns.AXIS : payload_columns.AXIS + 3],
                wanted[aim] / np.maximum(far, 1e-9),
                atol=1e-6,
            )
            np.testing.assert_array_equal(
                given[:, payload_columns.VELOCITY : payload_columns.VELOCITY + 3],
                what[:, recording.VELOCITY : recording.VELOCITY + 3],
            )
            np.testing.assert_array_equal(
                given[:, payload_columns.PLACE : payload_columns.PLACE + 3],
                what[:, recording.PLACE : recording.PLACE + 3],
            )
            np.testing.assert_array_equal(given[:, payload_columns.COLOR : payload_columns.SIZE + 1], 1.0)
        self.assertTrue(0.5 < hit.mean() < 0.9)
        give(what, order, 500, 0, False, given)
        np.testing.assert_array_equal(given[:, payload_columns.VELOCITY : payload_columns.VELOCITY + 3], 0.0)

    def test_times_since_the_window_began_come_round_with_the_loop(self):
        at, out = np.array([0.0, 59.0, 60.0, 61.5, 119.999999999999, 120.0]), np.empty(6)
        find_since_begin(Clock(rate=RATE, duration=1.0, whole=60, begin=0.25, length=0.5), at, out)
        np.testing.assert_allclose(out, np.array([0, 59, 0, 1.5, 0, 0]) / RATE - 0.25, atol=1e-9)
        # A loop that is no whole number of steps.
        find_since_begin(Clock(rate=RATE, duration=0.7, whole=0, begin=0.0, length=0.7), at, out)
        np.testing.assert_allclose(out, (at / RATE) % 0.7, atol=1e-9)
        find_since_begin(Clock(rate=RATE, duration=0.0, whole=0, begin=0.5, length=9.0), at, out)
        np.testing.assert_allclose(out, at / RATE - 0.5)


if __name__ == "__main__":
    unittest.main()
