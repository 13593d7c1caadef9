"""What follows a hit inside its step: drag, orbit and gravity go on from the velocity behind it; spin
turns to rolling.
"""

import math
import unittest

import numpy as np

from pale_ember.simulation import Simulation

from .contact_effects import G, effect_of
from .rooms import walls_around


def bounced(drag, seconds, bounce=1.0, high=1.0):
    """Return height and velocity of what falls through air and bounces, from hit to hit in closed form."""
    y, v, left, end = high, 0.0, seconds, -G / drag

    def after(t):
        lost = math.exp(-drag * t)
        return y + (v - end) * (1.0 - lost) / drag + end * t, end + (v - end) * lost

    while True:
        # The moment of the hit, by halving.
        low, up = 1e-9, left
        if after(left)[0] > 0.0:
            # It may have been below and come up again: look along the way.
            times = np.linspace(1e-9, left, 4000)
            under = [t for t in times if after(t)[0] < 0.0]
            if not under:
                return after(left)
            up = under[0]
        for _ in range(80):
            middle = (low + up) / 2
            low, up = (middle, up) if after(middle)[0] > 0.0 else (low, middle)
        y, v, left = 0.0, -bounce * after(up)[1], left - up


def fly_in_room(begin, velocity, seconds, drag, turn, gravity, bounce, steps=40_000):
    """Return place and velocity in a room of 2 m, by very small steps."""
    p, v, dt = np.array(begin), np.array(velocity), seconds / steps
    cos, sin = math.cos(turn * dt / 2), math.sin(turn * dt / 2)
    half = np.array([[cos, 0, sin], [0, 1, 0], [-sin, 0, cos]])
    lost = math.exp(-drag * dt)
    for _ in range(steps):
        p, v = half @ p, half @ v
        p = p + v * dt + np.array([0, -gravity * dt * dt / 2, 0])
        v = v * lost + np.array([0, -gravity * dt, 0])
        p, v = half @ p, half @ v
        for axis in range(3):
            if abs(p[axis]) > 1.0:
                p[axis] = math.copysign(2.0, p[axis]) - p[axis]
                v[axis] *= -bounce
    return p, v


class FlownAnewTest(unittest.TestCase):
    def test_bounces_in_air_are_those_of_the_closed_form_and_give_no_energy(self):
        for rate in (30, 60, 120):
            for drag, bounce in ((3.0, 1.0), (30.0, 1.0), (0.5, 0.7)):
                effect = effect_of(
                    **{
                        "place.position": [0, 1, 0],
                        "flight.gravity": 1,
                        "flight.drag": drag,
                        "contact.bounce": bounce,
                        "contact.friction": 0,
                        "step_rate": rate,
                    }
                )
                sim, most = Simulation(effect, threads=1), math.inf
                for _ in range(rate):
                    sim.step()
                    p = sim.particles("a")
                    energy = float(p.velocity[0, 1]) ** 2 / 2 + G * float(p.position[0, 1])
                    self.assertLess(energy, most + 1e-4 * G)
                    most = min(most, energy)
                if drag < 10.0:
                    y, v = bounced(drag, sim.time, bounce)
                    self.assertAlmostEqual(
                        float(sim.particles("a").position[0, 1]), y, delta=2e-4, msg=(rate, drag)
                    )
                    self.assertAlmostEqual(
                        float(sim.particles("a").velocity[0, 1]), v, delta=1e-3, msg=(rate, drag)
                    )

    def test_with_hits_too_a_step_is_of_second_order(self):
        for drag, turn, gravity, bounce in ((0.0, 2.0, 0.0, 1.0), (2.0, 3.0, G, 0.8)):
            place, _ = fly_in_room([0, 0, 0], [3.0, 2.0, 4.0], 0.8, drag, turn, gravity, bounce)
            wrong = []
            for rate in (30, 60, 120):
                effect = effect_of(
                    **{
                        "stage.floor": False,
                        "stage.props": walls_around(1.0, 0.02),
                        "launch.push": [3, 2, 4],
                        "flight.gravity": gravity / G,
                        "flight.drag": drag,
                        "flight.orbit": math.degrees(turn),
                        "contact.bounce": bounce,
                        "contact.friction": 0,
                        "contact.reach": 0,
                        "step_rate": rate,
                    }
                )
                sim = Simulation(effect, threads=1)
                sim.seek(0.8)
                self.assertGreaterEqual(sim.counts("a")["hits"], 2)
                wrong.append(float(np.abs(sim.particles("a").position[0] - place).max()))
            self.assertLess(wrong[2], wrong[0] / 8 + 2e-5, (drag, turn))
            self.assertLess(wrong[0], 3e-3)

    def test_slides_in_air_are_those_of_the_closed_form_and_what_is_held_does_not_creep(self):
        lean = math.radians(25)
        down, out = (
            np.array([math.cos(lean), -math.sin(lean), 0]),
            np.array([math.sin(lean), math.cos(lean), 0]),
        )
        slope = {"kind": "box", "rotation": [0, 0, -25], "size": [60, 0.3, 4]}
        for rate in (30, 60, 120):
            for drag, friction in ((4.0, 0.0), (4.0, 0.6), (20.0, 0.6)):
                effect = effect_of(
                    **{
                        "stage.floor": False,
                        "stage.props": [slope],
                        "place.position": (out * 0.3 - 8 * down).tolist(),
                        "flight.gravity": 1,
                        "flight.drag": drag,
                        "contact.bounce": 0,
                        "contact.friction": friction,
                        "contact.reach": 0,
                        "step_rate": rate,
                    }
                )
                sim = Simulation(effect, threads=1)
                sim.step()
                begin = sim.particles("a").position[0].copy()
                sim.seek(2.0)
                slid = float((sim.particles("a").position[0] - begin) @ down)
                pulled, time = G * math.sin(lean), 2.0 - 1 / rate
                if friction:
                    self.assertLess(abs(slid), 1e-6, (rate, drag))
                else:

                    def way(t, pulled=pulled, drag=drag):
                        return pulled / drag * (t - (1 - math.exp(-drag * t)) / drag)

                    self.assertAlmostEqual(slid, way(2.0) - way(2.0 - time), delta=1e-4, msg=rate)

    def test_a_ceiling_holds_nothing_that_is_pulled_off_it(self):
        # Thrown up against a ceiling without bounce, it falls freely from the moment of the hit on.
        for rate in (30, 60, 120):
            effect = effect_of(
                **{
                    "stage.floor": False,
                    "stage.props": [{"kind": "box", "position": [0, 1, 0], "size": [4, 0.1, 4]}],
                    "launch.push": [0, 6, 0],
                    "flight.gravity": 1,
                    "contact.bounce": 0,
                    "contact.reach": 0,
                    "step_rate": rate,
                }
            )
            sim = Simulation(effect, threads=1)
            sim.seek(0.5)
            fallen = 0.5 - (6 - math.sqrt(36 - 2 * G)) / G
            self.assertAlmostEqual(
                float(sim.particles("a").position[0, 1]), 1.0 - G * fallen**2 / 2, delta=2e-5
            )
            self.assertAlmostEqual(float(sim.particles("a").velocity[0, 1]), -G * fallen, delta=1e-4)


class CarriedTest(unittest.TestCase):
    def test_what_lies_on_a_turning_platform_stays_at_its_place_on_it(self):
        for rate in (30, 60, 120):
            path = [
                {"at": 0, "ease": "linear"},
                {"at": 1, "ease": "linear", "rotation": [0, 720, 0], "position": [1, 0, 0]},
            ]
            platform = {"kind": "cylinder", "size": [2, 0.2, 2], "path": path}
            effect = effect_of(
                **{
                    "stage.props": [platform],
                    "duration": 8,
                    "place.position": [0.5, 0.2, 0],
                    "flight.gravity": 1,
                    "contact.friction": 0.9,
                    "contact.bounce": 0,
                    "contact.reach": 0,
                    "step_rate": rate,
                }
            )
            sim, far = Simulation(effect, threads=1), []
            for second in range(2, 8):
                sim.seek(float(second))
                x, _, z = sim.particles("a").position[0] - np.array([second / 8, 0, 0])
                far.append(math.hypot(x, z))
            self.assertLess(max(far) - min(far), 2e-4, rate)


class RollingTest(unittest.TestCase):
    def test_a_ball_that_slides_ends_rolling_at_five_sevenths_of_its_speed(self):
        radius, friction = 0.15, 0.1
        for rate in (30, 60, 120):
            effect = effect_of(
                **{
                    "launch.push": [2, 0, 0],
                    "place.position": [0, radius, 0],
                    "flight.gravity": 1,
                    "launch.size": 2 * radius,
                    "contact.reach": 0.5,
                    "contact.bounce": 0,
                    "contact.friction": friction,
                    "step_rate": rate,
                }
            )
            sim, before = Simulation(effect, threads=1), 0.0
            for step in range(1, 2 * rate):
                was = float(sim.particles("a").velocity[0, 0])
                sim.step()
                angle = float(sim.particles("a").angle[0])
                turns, before = (angle - before) * rate, angle
                time = (step - 1) / rate
                # Friction's torque on a ball: 5/2 of its push, over the radius, until it rolls.
                sliding, rolling = 2.5 * friction * G * time / radius, was / radius
                if abs(sliding - rolling) > 1.5:
                    self.assertAlmostEqual(turns, -min(sliding, rolling), delta=0.25, msg=(rate, time))
            self.assertLess(was, 0.2)


if __name__ == "__main__":
    unittest.main()
