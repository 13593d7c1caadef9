"""Batches: names, what is still as it was, parts for machines, many processes, kills, and the commands."""

import contextlib
import functools
import itertools
import json
import os
import random
import shlex
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np

from pale_ember.cli.command_line import parser
from pale_ember.cli.hand_over import _profile as asked_profile
from pale_ember.demo import demo
from pale_ember.effect import EffectError, save_effect
from pale_ember.effect.rules.edit import edited
from pale_ember.files.bundle.reading import damaged
from pale_ember.files.bundle.tree import read_folder
from pale_ember.files.hand_over.batch import Item, found_items, shard
from pale_ember.files.hand_over.running import run_all
from pale_ember.files.hand_over.telling import command_line
from pale_ember.files.hand_over.works import Product, wish_of
from pale_ember.files.profile import Profile, parse_profile, profile_text, start_text
from tests.building import single
from tests.command_line import run_line

from .bundle_case import BundleCase, profile

QUICK = ["--set", "bundle.player=false", "--set", "bundle.runtime=false"]


def some(folder: Path, count: int) -> None:
    """Write small effects into a folder and folders below it."""
    for i in range(count):
        at = folder / f"part {i % 3}" / f"effect {i}.ember"
        at.parent.mkdir(parents=True, exist_ok=True)
        save_effect(single({"emit.rate": 5 + i}, name=f"Effect {i}", duration=0.3), at)


class Names(BundleCase):
    def test_folders_keep_their_shape_and_patterns_name(self):
        some(self.folder / "in", 4)
        found = found_items([str(self.folder / "in")], self.folder / "out")
        self.assertEqual(
            [one.at.relative_to(self.folder / "out").as_posix() for one in found],
            ["part 0/effect 0", "part 0/effect 3", "part 1/effect 1", "part 2/effect 2"],
        )
        found = found_items([str(self.folder / "in")], self.folder / "out", "{name} of {folder}")
        self.assertIn("effect 2 of part 2", [one.at.name for one in found])

    def test_two_of_one_name_wrong_patterns_and_ways_out_are_refused(self):
        some(self.folder / "in", 4)
        for pattern, words in (
            ("same", "both be called"),
            ("{nme}", "not known"),
            ("../{name}", "must lie in"),
            ("{folder}", "both be called"),
        ):
            with self.assertRaisesRegex(EffectError, words):
                found_items([str(self.folder / "in")], self.folder / "out", pattern)
        (self.folder / "empty").mkdir()
        with self.assertRaisesRegex(EffectError, "no effect"):
            found_items([str(self.folder / "empty")], self.folder)

    def test_parts_are_the_whole_and_no_effect_is_in_two(self):
        items = [Item(Path(f"{i}.ember"), Path(f"out/{i}"), f"fire/{i}") for i in range(200)]
        parts = [shard(items, i, 5) for i in range(1, 6)]
        self.assertEqual(
            sorted(item.name for item in itertools.chain(*parts)), sorted(item.name for item in items)
        )
        self.assertGreater(min(map(len, parts)), 20)
        # One more leaves the others where they were.
        more = [Item(Path("new.ember"), Path("out/new"), "new"), *items]
        moved = [set(shard(more, i, 5)) ^ set(parts[i - 1]) for i in range(1, 6)]
        self.assertEqual(set().union(*moved), {more[0]})


class Runs(BundleCase):
    def run_all(self, jobs, out="out", **more):
        items = found_items([str(self.folder / "in")], self.folder / out)
        return run_all(
            items,
            self.folder / out,
            Product.BUNDLE,
            profile(bundle__player=False, bundle__runtime=False),
            lambda *_: None,
            jobs=jobs,
            **more,
        )

    def test_only_what_changed_is_written_anew_however_many_processes(self):
        some(self.folder / "in", 3)
        self.assertEqual({row["state"] for row in self.run_all(2)}, {"written"})
        self.assertEqual({row["state"] for row in self.run_all(1)}, {"unchanged"})
        changed = self.folder / "in" / "part 1" / "effect 1.ember"
        save_effect(single({"emit.rate": 77}, name="Effect 1", duration=0.3), changed)
        states = {Path(row["file"]).stem: row["state"] for row in self.run_all(1)}
        self.assertEqual(states.pop("effect 1"), "written")
        self.assertEqual(set(states.values()), {"unchanged"})
        (self.folder / "out" / "part 0" / "effect 0" / "tables.json").unlink()
        states = {Path(row["file"]).stem: row["state"] for row in self.run_all(1)}
        self.assertEqual([name for name, state in states.items() if state == "written"], ["effect 0"])

    def test_the_split_makes_no_difference(self):
        some(self.folder / "in", 3)
        self.run_all(1)
        items = found_items([str(self.folder / "in")], self.folder / "parts")
        for i in (1, 2):
            run_all(
                shard(items, i, 2),
                self.folder / "parts",
                Product.BUNDLE,
                profile(bundle__player=False, bundle__runtime=False),
                lambda *_: None,
                jobs=1,
            )
        whole, parts = (read_folder(self.folder / name) for name in ("out", "parts"))
        self.assertEqual(
            {n: d for n, d in whole.items() if not n.startswith(".hand-over")},
            {n: d for n, d in parts.items() if not n.startswith(".hand-over")},
        )

    def test_one_that_is_wrong_does_not_end_the_others(self):
        some(self.folder / "in", 3)
        (self.folder / "in" / "part 0" / "effect 0.ember").write_text("{")
        rows = {Path(row["file"]).stem: row for row in self.run_all(2)}
        self.assertEqual(rows["effect 0"]["state"], "failed")
        self.assertIn("JSON", rows["effect 0"]["reason"])
        self.assertEqual({rows[name]["state"] for name in ("effect 1", "effect 2")}, {"written"})

    def test_killed_at_random_moments_every_file_is_whole_and_the_next_run_finishes(self):
        some(self.folder / "in", 4)
        out, rng = self.folder / "out", random.Random(5)
        line = [
            sys.executable,
            "-m",
            "pale_ember.cli",
            "export",
            str(self.folder / "in"),
            "--out",
            str(out),
            "--json",
            *QUICK,
        ]
        for kill in range(2):
            process = subprocess.Popen(
                line, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
            )
            time.sleep(rng.uniform(1.5, 4.0))
            with contextlib.suppress(ProcessLookupError):
                if kill % 2:
                    os.killpg(process.pid, signal.SIGKILL)
                else:
                    process.send_signal(signal.SIGTERM)
            process.wait()
            for at in out.rglob("bundle.json"):
                if not any(part.startswith(".pale") for part in at.parts):
                    self.assertEqual(damaged(at.parent), [])
        run = subprocess.run(line, capture_output=True, text=True, check=True)
        rows = json.loads(run.stdout)["works"]
        self.assertEqual(len(rows), 4)
        self.assertLessEqual({row["state"] for row in rows}, {"written", "unchanged"})
        self.assertEqual(sum(1 for _ in out.rglob("bundle.json")), 4)
        self.assertEqual(list(out.rglob(".pale-ember-*")), [])


class Commands(BundleCase):
    def test_budgets_are_told_each_time_and_end_with_one(self):
        some(self.folder / "in", 1)
        words = [
            "export",
            str(self.folder / "in"),
            "--out",
            str(self.folder / "out"),
            "--set",
            "budget.alive=1",
            *QUICK,
        ]
        for _ in range(2):
            status, out, err = run_line(*words)
            self.assertEqual(status, 1)
            self.assertIn("alive at once, 1 are allowed", err)
        self.assertIn("1 unchanged", out)

    def test_a_profile_and_fields_make_what_they_say(self):
        file = self.folder / "lantern.ember"
        save_effect(demo("lantern"), file)
        (self.folder / "game.toml").write_text("[sheet]\ncolumns = 2\nrows = 2\nframe = 16\n")
        words = [
            "bake",
            str(file),
            "--as",
            "sheet",
            "--out",
            str(self.folder / "out"),
            "--profile",
            str(self.folder / "game.toml"),
            "--set",
            "sheet.rows=1",
            "--json",
        ]
        status, out, _ = run_line(*words)
        self.assertEqual(status, 0)
        about = json.loads((self.folder / "out" / "lantern.json").read_text())
        self.assertEqual((about["columns"], about["rows"]), (2, 1))
        self.assertEqual(json.loads(out)["works"][0]["state"], "written")

    def test_bundles_are_checked_against_what_they_say_of_themselves(self):
        some(self.folder / "in", 1)
        run_line(
            "export",
            str(self.folder / "in"),
            "--out",
            str(self.folder),
            "--name",
            "b",
            *QUICK,
            "--set",
            "bundle.form=zip",
        )
        run_line("export", str(self.folder / "in"), "--out", str(self.folder), "--name", "b", *QUICK)
        for one in ("b.zip", "b", "b/bundle.json"):
            self.assertEqual(run_line("check", str(self.folder / one))[0], 0, one)
        (self.folder / "b" / "tables.json").write_text("{}")
        status, out, _ = run_line("check", str(self.folder / "b"))
        self.assertEqual(status, 1)
        self.assertIn("tables.json: this file is missing or not as it was written", out)

    def test_wrong_use_is_told(self):
        some(self.folder / "in", 1)
        start = ["export", str(self.folder / "in"), "--out", str(self.folder / "out")]
        for more, status, words in (
            (["--shard", "3/2"], 2, "part of a batch"),
            (["--set", "sheet"], 2, "names no value"),
            (["--set", "sheet.colums=2"], 2, "columns"),
            (["--set", "film.form=avi"], 2, "mp4"),
            (["--profile", str(self.folder / "none.toml")], 2, "can't be read"),
            (["--texture", "x=bc9"], 2, "bc7"),
            (["--name", "{x}"], 2, "not known"),
            (["--texture", "flame=bc7"], 2, "no effect here has a texture"),
            (["--shard", "²/3"], 2, "part of a batch"),
        ):
            found, _, err = run_line(*start, *more)
            self.assertEqual(found, status, more)
            self.assertIn(words, err)
        self.assertFalse((self.folder / "out").exists())

    def test_inputs_and_other_files_are_never_written_over(self):
        file = self.folder / "a.ember"
        save_effect(single({}, duration=0.3), file)
        before = file.read_bytes()
        (self.folder / "a").mkdir()
        (self.folder / "a" / "diary.txt").write_text("salt")
        status, _, err = run_line("export", str(file), "--out", str(self.folder), *QUICK)
        self.assertEqual(status, 1)
        self.assertIn("no bundle", err)
        self.assertEqual((file.read_bytes(), (self.folder / "a" / "diary.txt").read_text()), (before, "salt"))

    def test_it_watches(self):
        some(self.folder / "in", 1)
        line = [
            sys.executable,
            "-u",
            "-m",
            "pale_ember.cli",
            "cache",
            str(self.folder / "in"),
            "--out",
            str(self.folder / "out"),
            "--watch",
            "--set",
            "cache.rate=4",
        ]
        # Whoever runs the tests in the background may have its children pass over SIGINT.
        heed = functools.partial(signal.signal, signal.SIGINT, signal.default_int_handler)
        process = subprocess.Popen(line, stdout=subprocess.PIPE, text=True, preexec_fn=heed)  # noqa: PLW1509
        with process.stdout:
            try:
                while "Watching" not in process.stdout.readline():
                    pass
                # At once: what changes before anybody watches is seen too.
                save_effect(
                    single({"emit.rate": 50}, duration=0.3), self.folder / "in" / "part 0" / "effect 0.ember"
                )
                self.assertIn("written", process.stdout.readline())
                found = np.load(self.folder / "out" / "part 0" / "effect 0.npz")
                self.assertGreater(int(found["a/first"][-1]), 10)
            finally:
                process.send_signal(signal.SIGINT)
                process.wait(20)
            self.assertEqual(process.returncode, 130)


class Profiles(BundleCase):
    def test_what_is_written_is_read_again(self):
        rng = random.Random(3)
        for _ in range(60):
            found = Profile()
            for section in ("bundle", "sheet", "frames", "film", "cache", "budget"):
                model = type(getattr(found, section))
                for name, rule in model.rules().items():
                    if rng.random() < 0.4:
                        value = (
                            rng.choice(rule.choices)
                            if rule.choices
                            else rng.random() < 0.5
                            if rule.kind == "flag"
                            else min(max(rule.hard[0], rng.randint(1, 8)), rule.hard[1])
                        )
                        found = edited(found, f"{section}.{name}", value)
            found = edited(found, "textures", {'odd "name" = 1': "bc5"})
            self.assertEqual(parse_profile(profile_text(found)), found)

    def test_the_start_is_whole_and_says_all(self):
        self.assertEqual(parse_profile(start_text()), Profile())
        taken = "\n".join(
            line[2:] if line.startswith("# ") and " = " in line and not line.endswith((".", ")")) else line
            for line in start_text().splitlines()
        )
        self.assertEqual(parse_profile(taken).sheet, Profile().sheet)

    def test_a_command_line_gives_all_that_the_profile_wants_of_a_product(self):
        rng, file = random.Random(8), self.folder / "base.toml"
        for trial in range(60):
            sides = []
            for _ in range(2):
                found = edited(
                    Profile(),
                    "textures",
                    {name: rng.choice(("png", "bc7", "bc5")) for name in ("a", "b=c") if rng.random() < 0.5},
                )
                for section in ("bundle", "sheet", "frames", "film", "cache", "budget"):
                    for name, rule in type(getattr(found, section)).rules().items():
                        if rng.random() < 0.3:
                            low, high = max(rule.hard[0], 1), min(rule.hard[1], 60)
                            number = rng.randint(1, 8) if rule.kind == "integer" else rng.uniform(low, high)
                            value = (
                                rng.choice(rule.choices)
                                if rule.choices
                                else rng.random() < 0.5
                                if rule.kind == "flag"
                                else min(max(number, low), high)
                            )
                            found = edited(found, f"{section}.{name}", value)
                sides.append(found)
            base, wanted = sides
            file.write_text(profile_text(base))
            for product in Product:
                with self.subTest(trial=trial, product=product):
                    words = shlex.split(
                        command_line(product, wanted, "x.ember", "/out", "x", base, str(file))
                    )
                    got = asked_profile(parser().parse_args(words[1:]))
                    self.assertEqual(wish_of(got, product), wish_of(wanted, product))
                    if product == Product.BUNDLE:
                        self.assertEqual(got.budget, wanted.budget)
                        every = {*base.textures, *wanted.textures}
                        forms = [
                            {name: one.textures.get(name, one.bundle.textures) for name in every}
                            for one in (got, wanted)
                        ]
                        self.assertEqual(*forms)

    def test_a_command_line_says_what_differs(self):
        changed = profile(sheet__columns=4, sheet__trim=True, textures={"a b": "bc7"})
        self.assertEqual(
            command_line(Product.SHEET, changed, "/x/a b.ember", "/out", "a b"),
            "pale-ember bake '/x/a b.ember' --as sheet --out /out --set sheet.columns=4 --set "
            "sheet.trim=true",
        )
        self.assertIn("--texture 'a b=bc7'", command_line(Product.BUNDLE, changed, "x.ember", "/out", "y"))
        self.assertIn("--name y", command_line(Product.BUNDLE, changed, "x.ember", "/out", "y"))
