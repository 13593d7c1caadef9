"""Sheets, sequences and films: what is in them, that loops close, and that others can read them."""

import io
import json
import subprocess
import sys
from pathlib import Path
from unittest import mock

import imageio_ffmpeg
import numpy as np
from PIL import Image

from pale_ember.demo import demo
from pale_ember.drawing.between import between
from pale_ember.drawing.environment import environment_of
from pale_ember.drawing.moment import moment_of
from pale_ember.drawing.offscreen import OffscreenRenderer
from pale_ember.effect import EffectError
from pale_ember.effect.textures import Texture
from pale_ember.effect.values.colors import to_linear, to_srgb
from pale_ember.files.bakes.film import write_film
from pale_ember.files.bakes.filming import filmed
from pale_ember.files.bakes.sequence import sequence_files
from pale_ember.files.bakes.sheet import sheet_files
from pale_ember.files.looping import settled
from pale_ember.files.product_options import FilmOptions, FramesOptions, SheetOptions
from pale_ember.files.stopping import Stopped
from pale_ember.files.textures import textures_of
from pale_ember.simulation import Simulation
from pale_ember.textures.prepared import prepared
from pale_ember.textures.reading import pictures_of, read_raw
from tests.building import effect_with, single

from .bundle_case import BundleCase


def picture(data):
    return np.asarray(Image.open(io.BytesIO(data))).astype(float)


def frames_of(sheet, about):
    """Return a sheet's frames, (n, h, w, c)."""
    (wide, high), pad = about["frame"], about["padding"]
    cell = wide + 2 * pad, high + 2 * pad
    return np.stack(
        [
            sheet[r * cell[1] + pad : r * cell[1] + pad + high, c * cell[0] + pad : c * cell[0] + pad + wide]
            for r in range(about["rows"])
            for c in range(about["columns"])
        ]
    )


def smoke():
    """Return soft puffs that drift to the right at 0.5 m/s, and live for 0.8 s."""
    return single(
        {
            "emit.rate": 12,
            "launch.lifetime": {"spread": [0.6, 0.8]},
            "launch.speed": 0,
            "launch.push": [0.5, 0.0, 0.0],
            "launch.size": 0.5,
            "look.opacity": {"curve": [[0, 0], [0.3, 1], [1, 0]]},
            "birthplace.kind": "box",
            "birthplace.extents": [0.6, 0.6, 0.1],
        },
        duration=1.0,
    )


class Loops(BundleCase):
    def test_from_when_a_loop_is_settled_it_repeats_to_the_bit(self):
        chain = effect_with(
            {
                "a": {"emit.rate": 9, "launch.lifetime": {"spread": [0.5, 2.3]}},
                "b": {
                    "origin.parent": "a",
                    "origin.when": "death",
                    "launch.lifetime": {"spread": [0.2, 0.9]},
                    "flight.turbulence": 2,
                },
            },
            duration=1.25,
        )
        for effect in (smoke(), chain):
            same, start = settled(effect)
            sim = Simulation(same)
            for share in (0.0, 0.37, 0.8):
                found = []
                for loop in range(2):
                    sim.seek(start + (share + loop) * effect.duration)
                    found.append(
                        {layer.id: np.array(sim.particles(layer.id).position) for layer in same.layers}
                    )
                for name in found[0]:
                    np.testing.assert_array_equal(found[0][name], found[1][name])
                    self.assertGreater(len(found[0][name]), 0)

    def test_a_sheets_last_frame_leads_into_its_first(self):
        for effect in (smoke(), demo("lantern")):
            textures, _ = textures_of(effect, lambda path: True)
            files = sheet_files(effect, textures, SheetOptions(columns=6, rows=4, frame=64), "x")
            about = json.loads(files["x.json"])
            sheet = picture(files["x.png"])
            self.assertEqual(sheet.shape[:2], (4 * 64, 6 * 64), "unasked, nothing stands between frames")
            frames = frames_of(sheet, about)
            apart = [float(np.abs(frames[i] - frames[(i + 1) % 24]).mean()) for i in range(24)]
            self.assertTrue(about["loops"])
            self.assertLessEqual(apart[-1], max(apart[:-1]) * 1.05)
            self.assertGreater(min(apart), 0.0)

    def test_what_begins_elsewhere_or_does_not_loop_is_not_closed(self):
        effect = smoke()
        self.assertFalse(filmed(effect, {}, SheetOptions(begin=0.2), (32, 32), "nothing", count=4).closes)
        self.assertFalse(
            filmed(effect.edit("loop", False), {}, SheetOptions(), (32, 32), "nothing", count=4).closes
        )
        self.assertEqual(
            filmed(effect, {}, SheetOptions(begin=0.5, length=0.4), (32, 32), "nothing", count=4).times,
            (0.5, 0.6, 0.7, 0.8),
        )


class Sheets(BundleCase):
    def test_a_frame_is_the_picture_that_the_stage_shows(self):
        effect = demo("quench").edit("loop", False)
        textures, _ = textures_of(effect, lambda path: True)
        options = SheetOptions(
            columns=2, rows=1, frame=96, shot="own", behind="own", glow=True, padding=0, begin=0.5, length=1.0
        )
        sheet = picture(sheet_files(effect, textures, options, "x")["x.png"])
        sim = Simulation(effect)
        for i, at in enumerate((0.5, 1.0)):
            sim.seek(at)
            with OffscreenRenderer() as studio:
                own = studio.pixels(
                    moment_of(sim, textures=textures),
                    (96, 96),
                    effect.stage.camera,
                    environment_of(effect.stage, False),
                    fine=True,
                )[..., :3]
            np.testing.assert_allclose(sheet[:, i * 96 : i * 96 + 96], own, atol=1)

    def test_fitted_frames_hold_all_and_leave_borders_clear(self):
        for name in ("lantern",):
            effect = demo(name)
            textures, _ = textures_of(effect, lambda path: True)
            files = sheet_files(effect, textures, SheetOptions(columns=4, rows=3, frame=96), "x")
            frames = frames_of(picture(files["x.png"]), json.loads(files["x.json"]))
            seen = (frames[..., 3] > 12).any(axis=0)
            self.assertFalse(seen[0].any() or seen[-1].any() or seen[:, 0].any() or seen[:, -1].any(), name)
            rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
            self.assertGreater(max(np.ptp(rows), np.ptp(columns)), 96 * 0.7, name)

    def test_trimmed_and_straight_or_premultiplied_are_the_same_picture(self):
        effect = smoke()
        plain = sheet_files(effect, {}, SheetOptions(columns=3, rows=2, frame=64, padding=1), "x")
        dark = sheet_files(
            effect,
            {},
            SheetOptions(columns=3, rows=2, frame=64, padding=1, cover="premultiplied", trim=True),
            "x",
        )
        about, trimmed = json.loads(plain["x.json"]), json.loads(dark["x.json"])
        straight = frames_of(picture(plain["x.png"]), about)
        multiplied = frames_of(picture(dark["x.png"]), trimmed)
        x, y, _, _ = trimmed["trimmed_from"]
        wide, high = trimmed["frame"]
        self.assertLess(wide * high, 64 * 64)
        part = straight[:, y : y + high, x : x + wide]
        np.testing.assert_allclose(multiplied[..., 3], part[..., 3], atol=1)
        np.testing.assert_allclose(
            to_linear(multiplied[..., :3] / 255),
            to_linear(part[..., :3] / 255) * part[..., 3:] / 255,
            atol=0.006,
        )
        self.assertLess(straight[..., 3].sum() - part[..., 3].sum(), 0.01 * straight[..., 3].sum())

    def test_a_sheet_of_ours_is_read_back_as_the_light_that_was_baked(self):
        effect = smoke()
        for cover in ("straight", "premultiplied"):
            files = sheet_files(
                effect, {}, SheetOptions(columns=3, rows=2, frame=64, padding=1, cover=cover), "x"
            )
            about = json.loads(files["x.json"])
            (self.folder / "x.png").write_bytes(files["x.png"])
            entry = Texture(
                name="x",
                file=str(self.folder / "x.png"),
                cover=about["cover"],
                columns=3,
                rows=2,
                margin=1,
                gap=2,
            )
            read = pictures_of(entry, read_raw(self.folder / "x.png"))
            light = to_linear(prepared(entry, read).pixels[..., :3] / 255)
            baked = frames_of(picture(files["x.png"]), about)
            wanted = to_linear(baked[..., :3] / 255) * (
                1 if cover == "premultiplied" else baked[..., 3:] / 255
            )
            self.assertGreater(wanted.max(), 0.1)
            # Half a step of eight bits.
            np.testing.assert_allclose(light, wanted, atol=0.005, err_msg=cover)

    def test_straight_frames_are_right_over_black_and_nearly_so_over_greys_where_they_cover(self):
        soft = single(
            {
                "emit.rate": 30,
                "launch.lifetime": 0.8,
                "launch.size": 0.5,
                "look.opacity": {"curve": [[0, 0], [0.3, 1], [1, 0]]},
                "birthplace.kind": "box",
                "birthplace.extents": [0.6, 0.6, 0.1],
            },
            duration=1.0,
        )
        for color, blend, limits in (
            ("#181410", "alpha", {0.0: 1, 0.25: 5, 0.5: 2, 0.75: 6, 1.0: 12}),
            ("#c8c0b8", "alpha", {0.0: 1, 0.5: 7}),
            ("#e08040", "add", {0.0: 1}),
        ):
            effect = soft.edit("layers[0].look.color", color).edit("layers[0].look.blend", blend)
            options = {"width": 64, "height": 64, "rate": 4}
            found = [picture(data) / 255 for _, data in sequence_files(effect, {}, FramesOptions(**options))]
            exact = [
                picture(data) / 255
                for _, data in sequence_files(effect, {}, FramesOptions(**options, cover="premultiplied"))
            ]
            for grey, most in limits.items():
                off = []
                for one, light in zip(found, exact, strict=True):
                    seen = one[..., :3] * one[..., 3:] + grey * (1 - one[..., 3:])
                    true = np.minimum(
                        to_srgb(to_linear(light[..., :3]) + to_linear(grey) * (1 - light[..., 3:])), 1.0
                    )
                    off.append(np.abs(seen - true)[light.max(axis=2) > 0.02] * 255)
                self.assertLess(np.concatenate(off).mean(), most, (color, grey))

    def test_the_motion_map_says_where_points_go(self):
        effect = smoke()
        options = SheetOptions(columns=4, rows=3, frame=64, motion=True, normals=True, shot="own")
        files = sheet_files(
            effect.edit("stage.camera.yaw", 0).edit("stage.camera.pitch", 0), {}, options, "x"
        )
        about = json.loads(files["x.json"])
        motion, color = (
            frames_of(picture(files["x_motion.png"]), about),
            frames_of(picture(files["x.png"]), about),
        )
        covered = color[..., 3] > 100
        way = (motion[..., :2] / 255 - 0.5) * 2 * about["motion_reach"]
        # Pixels are square.
        self.assertAlmostEqual(
            about["metres"][0] / about["frame"][0], about["metres"][1] / about["frame"][1], places=4
        )
        # Half a metre a second to the right, in frames of so many metres.
        wanted = 0.5 / about["rate"] / about["metres"][0]
        self.assertAlmostEqual(float(np.median(way[..., 0][covered])), wanted, delta=0.12 * wanted)
        self.assertLess(abs(float(np.median(way[..., 1][covered]))), 0.1 * wanted)
        np.testing.assert_array_equal(motion[..., :2][color[..., 3] == 0][:50], 128)
        normals = frames_of(picture(files["x_normals.png"]), about) / 127.5 - 1
        np.testing.assert_allclose(np.linalg.norm(normals, axis=3), 1.0, atol=0.02)
        self.assertGreater(float(normals[..., 2][covered].mean()), 0.3)
        self.assertLess(
            float(normals[..., 0][:, :, :32][covered[:, :, :32]].mean()),
            float(normals[..., 0][:, :, 32:][covered[:, :, 32:]].mean()),
        )

    def test_too_large_a_sheet_is_refused(self):
        with self.assertRaisesRegex(EffectError, "pixels; at most"):
            sheet_files(smoke(), {}, SheetOptions(columns=64, rows=2, frame=2048), "x")


class Sequences(BundleCase):
    def test_files_are_numbered_sized_and_light_above_one_stays(self):
        effect = smoke().edit("layers[0].look.intensity", 6).edit("layers[0].look.blend", "add")
        options = FramesOptions(form="exr", rate=5, width=48, height=32)
        files = dict(sequence_files(effect, {}, options))
        self.assertEqual(list(files), [f"000{i}.exr" for i in range(5)])
        at = self.folder / "x.exr"
        at.write_bytes(files["0003.exr"])
        import OpenEXR

        with OpenEXR.File(str(at), separate_channels=True) as file:
            channels = {name: part.pixels for name, part in file.channels().items()}
        self.assertEqual(sorted(channels), ["A", "B", "G", "R"])
        self.assertEqual(channels["R"].shape, (32, 48))
        self.assertGreater(float(channels["R"].max()), 1.5)
        opaque = FramesOptions(form="exr", rate=5, width=48, height=32, behind="noon")
        at.write_bytes(dict(sequence_files(effect, {}, opaque))["0003.exr"])
        with OpenEXR.File(str(at), separate_channels=True) as file:
            self.assertEqual(sorted(file.channels()), ["B", "G", "R"])
        pngs = dict(sequence_files(effect, {}, FramesOptions(rate=5, width=48, height=32, behind="noon")))
        self.assertEqual(picture(pngs["0000.png"]).shape, (32, 48, 3))

    def test_between_steps_particles_are_on_their_way(self):
        effect = smoke()
        sim = Simulation(effect)
        sim.seek(0.5)
        before = moment_of(sim)
        sim.step()
        after = moment_of(sim)
        middle = between(before, after, 0.25)
        known = {
            int(s): place
            for s, place in zip(
                before.layers[0].life.serial, before.layers[0].instances["place"], strict=True
            )
        }
        for serial, place in zip(
            middle.layers[0].life.serial, middle.layers[0].instances["place"], strict=True
        ):
            if int(serial) in known:
                self.assertAlmostEqual(float(place[0] - known[int(serial)][0]), 0.5 / 60 / 4, delta=2e-5)
        self.assertEqual(len(middle.layers[0].instances), len(middle.layers[0].life.serial))


class Films(BundleCase):
    def decoded(self, path):
        """Return a film's pictures, (n, h, w, 4), and its pictures each second, as another decoder has
        them.
        """
        decoder = ["-c:v", "libvpx-vp9"] if path.suffix == ".webm" else []
        line = [
            imageio_ffmpeg.get_ffmpeg_exe(),
            "-v",
            "error",
            *decoder,
            "-i",
            str(path),
            "-f",
            "rawvideo",
            "-pix_fmt",
            "rgba",
            "-fps_mode",
            "passthrough",
            "-",
        ]
        return subprocess.run(line, capture_output=True, check=True).stdout

    def test_each_form_has_its_size_rate_length_and_cover(self):
        effect = smoke()
        for form in ("mp4", "webm", "gif", "webp", "apng"):
            at = self.folder / f"x.{form}"
            write_film(
                effect,
                {},
                FilmOptions(form=form, width=65, height=48, rate=20, behind="nothing", loops=2),
                at,
            )
            wide = 64 if form in ("mp4", "webm") else 65
            if form in ("gif", "webp", "apng"):
                with Image.open(at) as image:
                    self.assertEqual((image.size, image.n_frames), ((65, 48), 40), form)
                    length = 0
                    for i in range(image.n_frames):
                        image.seek(i)
                        image.load()
                        length += image.info["duration"]
                    self.assertAlmostEqual(length, 2000, delta=60, msg=form)
                    image.seek(5)
                    pixels = np.asarray(image.convert("RGBA"))
            else:
                raw = np.frombuffer(self.decoded(at), np.uint8).reshape(-1, 48, wide, 4)
                self.assertEqual(len(raw), 40, form)
                about = imageio_ffmpeg.read_frames(str(at)).__next__()
                self.assertEqual((about["fps"], about["size"]), (20.0, (64, 48)))
                self.assertAlmostEqual(about["duration"], 2.0, delta=0.06)
                pixels = raw[5]
            clear = form != "mp4"
            # WebM keeps its cover to a step or two.
            self.assertAlmostEqual(
                int(pixels[0, 0, 3]), 0 if clear else 255, delta=2 if form == "webm" else 0, msg=form
            )
            self.assertGreater(int(pixels[..., 3].max()), 150)

    def test_without_an_encoder_there_is_a_sentence_and_the_old_film_stays(self):
        at = self.folder / "x.mp4"
        at.write_bytes(b"old")
        with (
            mock.patch.dict(sys.modules, {"imageio_ffmpeg": None}),
            self.assertRaisesRegex(EffectError, "imageio-ffmpeg"),
        ):
            write_film(smoke(), {}, FilmOptions(width=32, height=32), at)
        with (
            mock.patch("imageio_ffmpeg.get_ffmpeg_exe", return_value="/bin/false"),
            self.assertRaisesRegex(EffectError, "can't be written"),
        ):
            write_film(smoke(), {}, FilmOptions(width=32, height=32), at)
        with self.assertRaises(Stopped):
            write_film(smoke(), {}, FilmOptions(width=32, height=32), at, lambda share: share > 0.4)
        self.assertEqual(at.read_bytes(), b"old")
        self.assertEqual([one.name for one in Path(self.folder).iterdir()], ["x.mp4"])
