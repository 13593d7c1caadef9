import json
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from pale_ember.effect import load_effect, save_effect
from pale_ember.files.autosave import Autosave, leftover_of, leftovers

from ..building import single


class AutosaveTest(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        patch = mock.patch.dict(os.environ, {"PALE_EMBER_STATE": f"{self.folder.name}/state"})
        patch.start()
        self.addCleanup(patch.stop)
        self.path = Path(self.folder.name) / "x.ember"

    def crash(self, *words):
        """Autosave in another process, which ends without a word."""
        code = (
            "import sys, os; from pathlib import Path; from tests.building import single\n"
            "from pale_ember.files.autosave import Autosave\n"
            "path = Path(sys.argv[1]) if len(sys.argv) > 1 else None\n"
            "Autosave().keep(single({'name': 'kept'}), path); os.kill(os.getpid(), 9)\n"
        )
        subprocess.run([sys.executable, "-c", code, *words], check=False)

    def test_what_a_crash_leaves_is_found(self):
        save_effect(single(), self.path)
        self.crash(str(self.path))
        self.crash()
        found = leftovers()
        self.assertEqual({left.path for left in found}, {self.path, None})
        self.assertEqual([left.effect().layers[0].name for left in found], ["kept", "kept"])
        self.assertEqual(load_effect(self.path).layers[0].name, "a")
        beside = leftover_of(self.path)
        self.assertEqual(beside.effect().layers[0].name, "kept")
        for left in found:
            left.discard()
        self.assertEqual(leftovers(), [])
        self.assertIsNone(leftover_of(self.path))
        self.assertEqual([p.name for p in Path(self.folder.name).iterdir() if p.is_file()], ["x.ember"])

    def test_a_copy_that_is_the_file_itself_is_not_offered(self):
        other = single({"name": "other"})
        for pid, effect in ((999_999_991, single()), (999_999_992, other), (999_999_993, other)):
            save_effect(effect, self.path.with_name(f".x.ember.{pid}.autosave"))
        os.utime(self.path.with_name(".x.ember.999999991.autosave"), (2e9, 2e9))
        self.assertEqual(leftover_of(self.path).effect(), single(), "without a file all of it is news")
        save_effect(single(), self.path)
        # The newest copy holds what the file holds: the next one counts.
        self.assertEqual(leftover_of(self.path).effect(), other)
        save_effect(other, self.path)
        self.assertEqual(leftover_of(self.path).effect(), single())
        self.path.with_name(".x.ember.999999991.autosave").unlink()
        self.assertIsNone(leftover_of(self.path))

    def test_only_changed_work_is_written_and_clearing_removes_it(self):
        autosave = Autosave()
        effect = single()
        self.assertTrue(autosave.keep(effect, self.path))
        self.assertFalse(autosave.keep(effect, self.path))
        self.assertEqual(leftovers(), [], "this process is still at work")
        autosave.clear()
        self.assertEqual(list(Path(self.folder.name).glob(".x*")), [])

    def test_broken_notes_and_copies_are_passed_over(self):
        state = Path(self.folder.name) / "state"
        state.mkdir()
        (state / "open-1.json").write_text("{")
        copy = state / "untitled-2.ember.autosave"
        copy.write_text("not an effect")
        (state / "open-2.json").write_text(
            json.dumps({"pid": 999_999_999, "path": None, "autosave": str(copy)})
        )
        self.assertEqual([bool(left.problem) for left in leftovers()], [True])


if __name__ == "__main__":
    unittest.main()
