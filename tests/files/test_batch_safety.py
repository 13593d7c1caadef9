"""Batches lose nothing: paths that stand in each other's way, files that change or can't be read, folders
that others write to.
"""

import contextlib
import functools
import io
import json
import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from pathlib import Path
from unittest import mock

from pale_ember.effect import EffectError, save_effect
from pale_ember.effect.errors import WrongUse
from pale_ember.effect.storing import whole_files as whole
from pale_ember.files.bundle.reading import added, damaged
from pale_ember.files.bundle.tree import read_folder
from pale_ember.files.hand_over.batch import found_items, refuse_overlaps
from pale_ember.files.hand_over.works import Product
from tests.building import single
from tests.command_line import run_line

from .bundle_case import QUICK, BundleCase, profile


class Paths(BundleCase):
    def refused(self, product, wishes, *names):
        for name in names:
            (self.folder / "in" / name).parent.mkdir(parents=True, exist_ok=True)
            save_effect(single({}, duration=0.3), self.folder / "in" / name)
        with self.assertRaises(WrongUse) as wrong:
            refuse_overlaps(found_items([str(self.folder / "in")], self.folder / "out"), product, wishes)
        return wrong.exception.reason

    def test_a_bundle_does_not_hold_its_neighbours(self):
        words = self.refused(Product.BUNDLE, profile(), "fire.ember", "fire/small.ember")
        self.assertIn("fire/small.ember would be written into the folder of", words)
        # The line says so before anything is written.
        status, _, err = run_line(
            "export", str(self.folder / "in"), "--out", str(self.folder / "out"), *QUICK
        )
        self.assertEqual((status, (self.folder / "out").exists()), (2, False))
        self.assertIn("--name", err)
        # As .zip both have room, and so they have by a pattern.
        for more in (["--set", "bundle.form=zip"], ["--name", "{folder}-{name}"]):
            self.assertEqual(
                run_line(
                    "export", str(self.folder / "in"), "--out", str(self.folder / more[1][:4]), *QUICK, *more
                )[0],
                0,
                more,
            )

    def test_frames_do_not_hold_their_neighbours_and_single_files_may_lie_anywhere(self):
        words = self.refused(Product.FRAMES, profile(), "fire.ember", "fire/small.ember")
        self.assertIn("fire/small.ember would be written into the folder of", words)
        items = found_items([str(self.folder / "in")], self.folder / "out")
        zipped = profile(bundle__form="zip")
        for product in (Product.SHEET, Product.FILM, Product.CACHE, Product.BUNDLE):
            refuse_overlaps(items, product, zipped)

    def test_maps_beside_sheets_are_counted(self):
        self.assertIn(
            "fire_motion.png",
            self.refused(Product.SHEET, profile(sheet__motion=True), "fire.ember", "fire_motion.ember"),
        )

    def test_an_effect_that_is_read_is_not_in_a_folder_that_is_written(self):
        save_effect(single({}, duration=0.3), self.folder / "fire.ember")
        (self.folder / "fire").mkdir()
        save_effect(single({}, duration=0.3), self.folder / "fire" / "old.ember")
        (self.folder / "fire" / "bundle.json").write_text("{}")
        status, _, err = run_line("export", str(self.folder), "--out", str(self.folder), *QUICK)
        self.assertEqual(status, 2)
        self.assertTrue((self.folder / "fire" / "old.ember").exists(), err)


class Others(BundleCase):
    """Who else writes to the same folder."""

    def test_a_living_writers_file_stays_whatever_its_machine_is_called(self):
        ours = self.folder / f"{whole.temporary_prefix()}x{whole.PART}"
        dead = self.folder / f"{whole._NAMES}{whole._PLACE}-999999999-x{whole.PART}"
        # A container of this machine's name, or this machine before it was started anew: its numbers are not
        # ours.
        with mock.patch.object(whole.os, "readlink", return_value="pid:[1]"):
            other = self.folder / f"{whole._NAMES}{whole._own_place()}-999999999-x{whole.PART}"
        for file in (ours, dead, other):
            file.write_bytes(b"half")
        whole.sweep(self.folder)
        self.assertEqual([file.exists() for file in (ours, dead, other)], [True, False, True])
        os.utime(other, (time.time() - 7200,) * 2)
        whole.sweep(self.folder)
        self.assertFalse(other.exists())


class Farms(BundleCase):
    """Parts, notes that are copied, what is left over."""

    def line(self, out, *more):
        return run_line(
            "export", str(self.folder / "in"), "--out", str(self.folder / out), *QUICK, "--jobs", "1", *more
        )

    def setUp(self):
        super().setUp()
        (self.folder / "in").mkdir()
        for name in ("a", "b", "c"):
            save_effect(single({"emit.rate": ord(name)}, duration=0.3), self.folder / "in" / f"{name}.ember")

    def test_parts_are_reported_together_and_copies_stay_done(self):
        (self.folder / "in" / "d.ember").write_text("{")
        self.line("out", "--shard", "1/2")
        status, out, _ = self.line("out", "--report", "--json")
        states = sorted(row["state"] for row in json.loads(out)["works"])
        self.assertEqual((status, "missing" in states), (1, True))
        self.line("out", "--shard", "2/2")
        rows = {
            Path(row["file"]).stem: row["state"]
            for row in json.loads(self.line("out", "--report", "--json")[1])["works"]
        }
        self.assertEqual(rows, {"a": "done", "b": "done", "c": "done", "d": "failed"})
        (self.folder / "in" / "d.ember").unlink()
        self.assertEqual(self.line("out", "--report")[:2], (0, "3 done.\n"))
        shutil.copytree(self.folder / "out", self.folder / "copy", copy_function=shutil.copyfile)
        self.assertIn("3 unchanged", self.line("copy")[1])
        (self.folder / "copy" / "a" / "tables.json").write_text("{}")
        self.assertIn("1 written, 2 unchanged", self.line("copy")[1])
        with mock.patch("pale_ember.files.hand_over.notes.__version__", "99"):
            self.assertIn("3 written", self.line("copy")[1])

    def test_a_dry_run_writes_nothing_and_pruning_takes_what_is_left_and_nothing_else(self):
        self.assertIn("3 to write", self.line("out", "--dry-run")[1])
        self.assertFalse((self.folder / "out").exists())
        self.line("out")
        for name in ("a", "b"):
            (self.folder / "in" / f"{name}.ember").unlink()
        (self.folder / "out" / "b" / "notes.txt").write_text("mine")
        (self.folder / "out" / "mine").mkdir()
        before = read_folder(self.folder / "out")
        self.assertIn("to remove", self.line("out", "--prune", "--dry-run")[1])
        self.assertEqual(read_folder(self.folder / "out"), before)
        status, out, _ = self.line("out", "--prune")
        self.assertEqual(status, 1)
        self.assertIn("b: kept, there are other files in its folder", out)
        self.assertEqual(
            sorted(one.name for one in (self.folder / "out").iterdir()), [".hand-over", "b", "c", "mine"]
        )
        self.assertEqual(
            (damaged(self.folder / "out" / "b"), added(self.folder / "out" / "b")), ([], ["notes.txt"])
        )

    def test_what_is_stopped_says_what_was_written_and_watching_speaks_lines_of_json(self):
        line = [
            sys.executable,
            "-u",
            "-m",
            "pale_ember.cli",
            "export",
            str(self.folder / "in"),
            "--out",
            str(self.folder / "out"),
            *QUICK,
            "--json",
            "--watch",
        ]
        process = subprocess.Popen(line, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        with process.stdout, process.stderr:
            first, watching = json.loads(process.stdout.readline()), json.loads(process.stdout.readline())
            self.assertEqual([row["state"] for row in first["works"]], ["written"] * 3)
            self.assertEqual(list(watching), ["watching"])
            save_effect(single({"emit.rate": 3}, duration=0.3), self.folder / "in" / "b.ember")
            rows = json.loads(process.stdout.readline())["works"]
            self.assertEqual(
                {Path(row["file"]).stem: row["state"] for row in rows},
                {"a": "unchanged", "b": "written", "c": "unchanged"},
            )
            process.terminate()
            process.wait(20)
            self.assertEqual((process.stdout.read(), process.stderr.read()), ("", "pale-ember: stopped.\n"))
        with mock.patch(
            "pale_ember.files.hand_over.running.handle",
            side_effect=[{"file": "a", "at": "a", "state": "written", "seconds": 0.0}, KeyboardInterrupt],
        ):
            status, out, err = self.line("other", "--json")
        self.assertEqual((status, err), (130, "pale-ember: stopped.\n"))
        self.assertEqual((len(json.loads(out)["works"]), json.loads(out)["stopped"]), (1, True))


class Stops(BundleCase):
    def test_stopped_at_any_moment_of_its_start_it_says_so_in_a_sentence(self):
        save_effect(single({}, duration=0.3), self.folder / "a.ember")
        line = [
            sys.executable,
            "-m",
            "pale_ember.cli",
            "export",
            str(self.folder / "a.ember"),
            "--out",
            str(self.folder / "out"),
            *QUICK,
        ]
        heed = functools.partial(signal.signal, signal.SIGINT, signal.default_int_handler)
        for wait in (0.25, 0.4, 0.6, 0.9, 1.4, 2.0):
            process = subprocess.Popen(
                line,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.PIPE,
                text=True,
                preexec_fn=heed,  # noqa: PLW1509
            )
            time.sleep(wait)
            process.send_signal(signal.SIGINT)
            said = process.communicate(timeout=120)[1]
            # Before the program's first line it is Python that is stopped.
            self.assertNotIn(".py", said)
            if process.returncode == 130:
                self.assertEqual(said, "pale-ember: stopped.\n", wait)


class Bundles(BundleCase):
    """Bundles that were added to, or lead out; .zip files that are broken, encrypted, or larger than they
    say.
    """

    def zipped(self, change=lambda files: None, name="b.zip", more=()):
        if not (self.folder / "whole").exists():
            save_effect(single({}, duration=0.3), self.folder / "b.ember")
            run_line(
                "export",
                str(self.folder / "b.ember"),
                "--out",
                str(self.folder / "whole"),
                *QUICK,
                "--set",
                "bundle.form=zip",
            )
        with zipfile.ZipFile(self.folder / "whole" / "b.zip") as file:
            files = {one: file.read(one) for one in file.namelist()}
        change(files)
        with zipfile.ZipFile(self.folder / name, "w", zipfile.ZIP_DEFLATED) as file:
            for one, data in (*files.items(), *more):
                file.writestr(one, data)
        return self.folder / name

    def said(self, file):
        status, out, err = run_line("check", str(file))
        self.assertEqual((status, err), (1, ""))
        self.assertNotIn("/tmp/pale-ember-", out.replace(str(self.folder), ""))
        return out

    def test_each_wrong_zip_has_its_sentence(self):
        def manifest(**changes):
            def change(files):
                files["bundle.json"] = json.dumps({**json.loads(files["bundle.json"]), **changes}).encode()

            return change

        with zipfile.ZipFile(self.zipped()) as file:
            listed = {**json.loads(file.read("bundle.json"))["files"], "x" * 400: {"bytes": 1, "sha256": "0"}}
        for change, more, words in (
            (manifest(), [("x/extra.txt", b"1")], "x/extra.txt: this file is not of the bundle"),
            (manifest(), [("n" * 300, b"1")], "longer than 255"),
            (manifest(), [("../out.txt", b"1")], "outside its folder"),
            (manifest(), [(zipfile.ZipInfo(""), b"1")], "has no name"),
            (manifest(version="9"), [], "no whole number"),
            (manifest(version=9), [], "newer version"),
            (manifest(effect="../a"), [], "outside the bundle"),
            (manifest(files=listed), [], "missing or not as it was written"),
            (manifest(files={"/etc/passwd": {"bytes": 1, "sha256": "0"}}), [], "outside the bundle"),
            (lambda files: files.pop("bundle.json"), [], "no bundle.json"),
            (
                lambda files: files.update({"tables.json": bytes(5_000_000)}),
                [],
                "larger than its bundle.json says",
            ),
        ):
            self.assertIn(words, self.said(self.zipped(change, more=more)))
        data = bytearray(self.zipped().read_bytes())
        at = data.find(b"PK\x01\x02")
        while at >= 0:
            data[at + 8] |= 1
            at = data.find(b"PK\x01\x02", at + 4)
        (self.folder / "closed.zip").write_bytes(data)
        self.assertIn("encrypted", self.said(self.folder / "closed.zip"))
        self.assertIn("no bundle", self.said(self.folder / "whole"))

    def test_zips_damaged_anywhere_are_refused_or_whole(self):
        import random

        rng, data = random.Random(11), self.zipped().read_bytes()
        for _ in range(250):
            broken = bytearray(data)
            for _ in range(rng.choice((1, 3, 10))):
                broken[rng.randrange(len(broken))] = rng.randrange(256)
            (self.folder / "broken.zip").write_bytes(broken)
            with contextlib.redirect_stderr(io.StringIO()) as err:
                status, _, _ = run_line("check", str(self.folder / "broken.zip"))
            self.assertIn(status, (0, 1))
            self.assertEqual(err.getvalue(), "")


class Limits(BundleCase):
    def test_what_is_absurd_or_no_number_is_refused(self):
        file = self.folder / "a.ember"
        save_effect(single({}, duration=0.3), file)
        for words, status, said in (
            (
                [
                    "bake",
                    str(file),
                    "--as",
                    "film",
                    "--out",
                    "f",
                    "--set",
                    "film.width=8192",
                    "--set",
                    "film.height=8192",
                ],
                1,
                "too large",
            ),
            (
                [
                    "bake",
                    str(file),
                    "--as",
                    "film",
                    "--out",
                    "f",
                    "--set",
                    "film.length=3600",
                    "--set",
                    "film.rate=240",
                ],
                1,
                "864,000 pictures",
            ),
            (
                ["filmstrip", str(file), "--size", "4096x64", "--frames", "64", "-o", "x.png"],
                1,
                "at most 8192",
            ),
            (["filmstrip", str(file), "--particle", "-5", "-o", "x"], 2, "no particle"),
        ):
            found, _, err = run_line(
                *(str(self.folder / word) if word in ("f", "x.png") else word for word in words)
            )
            self.assertEqual(found, status, words)
            self.assertIn(said, err)
        self.assertEqual(run_line("--version")[0], 0)
        (self.folder / "odd.ember").write_text('{"format": "pale-ember/effect", "version": 3, "\\ud800": 1}')
        self.assertIn("half a character", run_line("check", str(self.folder / "odd.ember"))[1])
        with self.assertRaises(EffectError):
            whole.read_regular(self.folder, 10)
