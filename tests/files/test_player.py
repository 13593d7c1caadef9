"""The page of a bundle, in a real browser: it plays, looks as ours, and asks nothing of anybody."""

import io
import time
import unittest

import numpy as np
from PIL import Image

from pale_ember.demo import demo
from pale_ember.files.bundle.reading import load_bundle
from pale_ember.files.bundle.writing import write_bundle
from pale_ember.files.pictures import render_file
from pale_ember.files.textures import textures_of
from tests.browser import Browser, chromium
from tests.building import single

from .bundle_case import BundleCase, profile

SIZE = (320, 200)
READY = "document.documentElement.dataset.ready === 'yes'"


@unittest.skipUnless(chromium(), "there is no Chromium here")
class Page(BundleCase):
    def ours(self, effect, at):
        """Return what `render` draws."""
        file = self.folder / "ours.png"
        render_file(effect, at, SIZE, file, textures=textures_of(effect, lambda path: True)[0])
        return np.asarray(Image.open(file).convert("RGB")).astype(float)

    def theirs(self, browser, name, at, more="&paused"):
        browser.send("Page.navigate", url="about:blank")
        browser.open(f"file://{self.folder}/{name}/player.html#t={at}{more}&size={SIZE[0]}x{SIZE[1]}", READY)
        return np.asarray(Image.open(io.BytesIO(browser.picture())).convert("RGB")).astype(float)

    def test_its_pictures_are_ours_and_it_asks_for_nothing(self):
        rich = load_bundle(self._bundle("stones", self.rich()[1]))
        with Browser() as browser:
            for name, effect in (
                ("stones", rich),
                ("wisp", demo("wisp").edit("duration", 1.0).edit("loop", False)),
            ):
                if name != "stones":
                    self._bundle(name, effect)
                for share in (0.31, 0.62, 0.9) if name == "stones" else (0.5,):
                    at = round(share * effect.duration * effect.step_rate) / effect.step_rate
                    a, b = self.ours(effect, at), self.theirs(browser, name, at)
                    self.assertEqual(a.shape, b.shape)
                    off = np.abs(a - b)
                    self.assertLess(off.mean(), 1.2, (name, at))
                    self.assertLess((off.max(axis=2) > 24).mean(), 0.02, (name, at))
                    self.assertGreater(a.std(), 3.0)
            asked = [
                url
                for url in browser.asked
                if url != "about:blank" and not url.startswith(f"file://{self.folder}")
            ]
            self.assertEqual(asked, [])
            self.assertEqual(browser.said, [])

    def test_turned_sprites_are_turned_the_same_way(self):
        Image.fromarray(np.full((32, 32, 4), 255, np.uint8)).save(self.folder / "bar.png")
        whole = {"duration": 1.0, "loop": False}
        edits = {"emit.rate": 0, "emit.bursts": [{"count": 1}], "launch.speed": 0, "look.texture": "bar"}
        edits |= {"launch.size": 1, "launch.aspect": 0.2, "launch.lifetime": 5, "launch.angle": 35}
        with Browser() as browser:
            for name, more in (
                ("fixed", {}),
                ("spinning", {"flight.spin": 60}),
                ("upright", {"look.facing": "upright", "flight.spin": 40}),
            ):
                effect = single({**edits, **more}, **whole)
                effect = effect.edit("textures", [{"name": "bar", "file": str(self.folder / "bar.png")}])
                self._bundle(name, effect)
                a, b = self.ours(effect, 0.5), self.theirs(browser, name, 0.5)
                self.assertLess(np.abs(a - b).mean(), 1.2, name)
                # The other way round it would be another picture.
                turned = effect.edit("layers[0].launch.angle", -35).edit(
                    "layers[0].flight.spin", -more.get("flight.spin", 0)
                )
                self.assertGreater(np.abs(self.ours(turned, 0.5) - b).mean(), 2.0, name)

    def _bundle(self, name, effect):
        write_bundle(effect, self.folder / name, profile(bundle__runtime=False, bundle__textures="png"))
        return self.folder / name

    def test_it_plays_by_itself_and_obeys_its_controls(self):
        self._bundle("kiln", demo("lantern").edit("duration", 2.0))
        with Browser() as browser:
            self.theirs(browser, "kiln", 0, "")
            first = float(browser.run("state.time"))
            end = time.monotonic() + 60.0
            while float(browser.run("state.time")) == first:
                self.assertLess(time.monotonic(), end, "it stands still")
                time.sleep(0.1)
            browser.run("find('play').click()")
            held = browser.run("state.time")
            time.sleep(0.2)
            self.assertEqual(browser.run("state.time"), held)
            before = browser.picture()
            browser.send(
                "Input.dispatchMouseEvent",
                type="mousePressed",
                x=200,
                y=150,
                button="left",
                buttons=1,
                clickCount=1,
            )
            browser.send(
                "Input.dispatchMouseEvent", type="mouseMoved", x=260, y=150, button="left", buttons=1
            )
            browser.send(
                "Input.dispatchMouseEvent", type="mouseReleased", x=260, y=150, button="left", clickCount=1
            )
            browser.run("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
            self.assertNotEqual(browser.picture(), before)
            self.assertNotEqual(browser.run("state.camera.yaw"), browser.run("SCENE.camera.yaw"))
            browser.run(
                "find('view').click(), find('backdrop').value = 'noon', "
                "find('backdrop').dispatchEvent(new Event('change'))"
            )
            self.assertEqual(browser.run("state.camera.yaw"), browser.run("SCENE.camera.yaw"))
            browser.run("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
            light = np.asarray(Image.open(io.BytesIO(browser.picture())).convert("L")).mean()
            self.assertGreater(light, np.asarray(Image.open(io.BytesIO(before)).convert("L")).mean() + 20)
            # The loop that it goes round in closes: the moment behind its last is its first.
            ends = []
            for at in (2.0, 3.9999, 3.98, 2.02):
                browser.run(f"state.time = {at}, show()")
                ends.append(
                    np.asarray(Image.open(io.BytesIO(browser.picture())).convert("RGB")).astype(float)
                )
            seam, near = np.abs(ends[1] - ends[0]).mean(), np.abs(ends[2] - ends[1]).mean()
            self.assertLess(seam, 1.5 * near + 0.2)

    def test_a_page_that_cannot_draw_says_so(self):
        self._bundle("stones", self.rich()[1])
        at = self.folder / "stones" / "player.html"
        at.write_text(at.read_text().replace('getContext("webgl2"', 'getContext("nothing"'))
        with Browser() as browser:
            browser.open(f"file://{at}", "document.documentElement.dataset.ready === 'no'")
            self.assertIn("WebGL 2", browser.run("find('said').textContent"))
