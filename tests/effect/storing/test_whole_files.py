"""Files that are whole or not there: read, written by way of another, and what killed saves leave."""

import hashlib
import os
import stat
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from pale_ember.effect.errors import EffectError
from pale_ember.effect.storing import whole_files as whole


class FolderCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "fire.ember"

    def refused(self, words, act, *args):
        with self.assertRaisesRegex(EffectError, words) as caught:
            act(*args)
        return caught.exception.place


class Reading(FolderCase):
    def test_bytes_and_their_hash(self):
        data = os.urandom(3000)
        self.file.write_bytes(data)
        self.assertEqual(whole.read_regular(self.file, 3000), data)
        self.assertEqual(whole.hash_regular(self.file), hashlib.sha256(data).hexdigest())

    def test_what_is_too_large_no_file_or_not_there_is_refused_by_its_path(self):
        self.file.write_bytes(b"x" * 2049)
        place = self.refused(r"larger than 2,?048? ?|larger than", whole.read_regular, self.file, 2048)
        self.assertEqual(place, str(self.file))
        self.refused("a folder; name a file in it", whole.read_regular, self.folder, 10)
        self.refused("no such file", whole.read_regular, self.folder / "none", 10)
        self.refused("no regular file", whole.hash_regular, "/dev/zero")
        self.refused("not a path", whole.read_regular, "a\0b", 10)
        pipe = self.folder / "pipe"
        os.mkfifo(pipe)
        self.refused("no regular file", whole.read_regular, pipe, 10)

    def test_a_path_is_shown_without_what_cannot_be_printed_and_not_endless(self):
        self.assertEqual(whole.shown_path("a\nb\x07c"), "a?b?c")
        self.assertEqual(len(whole.shown_path("x" * 900)), 300)


class Writing(FolderCase):
    def test_a_file_is_replaced_whole_with_its_own_permissions(self):
        self.file.write_bytes(b"old")
        self.file.chmod(0o640)
        before = self.file.stat().st_ino
        whole.write_whole(self.file, b"new")
        self.assertEqual(self.file.read_bytes(), b"new")
        self.assertEqual(stat.S_IMODE(self.file.stat().st_mode), 0o640)
        self.assertNotEqual(self.file.stat().st_ino, before)
        self.assertEqual(list(self.folder.iterdir()), [self.file])

    def test_a_new_file_has_what_the_mask_leaves(self):
        for mask in (0o022, 0o077):
            old = os.umask(mask)
            self.addCleanup(os.umask, old)
            new = self.folder / f"{mask}.ember"
            whole.write_whole(new, b"new")
            self.assertEqual(stat.S_IMODE(new.stat().st_mode), 0o666 & ~mask)

    def test_what_a_link_points_at_is_written(self):
        link = self.folder / "link"
        link.symlink_to(self.file)
        whole.write_whole(link, b"through")
        self.assertTrue(link.is_symlink())
        self.assertEqual(self.file.read_bytes(), b"through")

    def test_whatever_is_raised_meanwhile_what_was_there_stays(self):
        self.file.write_bytes(b"old")
        for wrong in (KeyboardInterrupt, ZeroDivisionError):
            with self.assertRaises(wrong), whole.whole_file(self.file) as temporary:
                Path(temporary).write_bytes(b"half")
                raise wrong
        with mock.patch.object(whole.os, "replace", side_effect=OSError(28, "No space left on device")):
            self.refused("can't be written: no space left", whole.write_whole, self.file, b"new")
        self.assertEqual((self.file.read_bytes(), list(self.folder.iterdir())), (b"old", [self.file]))

    def test_inputs_folders_and_devices_are_not_written_over(self):
        self.file.write_bytes(b"read")
        hard = self.folder / "hard"
        os.link(self.file, hard)
        for one in (self.file, hard):
            self.refused("the file that is read", whole.write_whole, self.file, b"", (one,))
        self.refused("a folder; name a file in it", whole.write_whole, self.folder, b"")
        self.refused("no regular file", whole.write_whole, "/dev/null", b"")
        self.refused("can't be written", whole.write_whole, self.folder / "none" / "fire.ember", b"")
        self.assertEqual(self.file.read_bytes(), b"read")
        whole.write_whole(self.file, b"other", (self.folder / "else.ember",))
        self.assertEqual(self.file.read_bytes(), b"other")


class Sweeping(FolderCase):
    def left(self, name, is_folder=False):
        path = self.folder / name
        path.mkdir() if is_folder else path.write_bytes(b"half")
        return path

    def test_only_what_the_dead_left_goes_and_others_things_when_they_are_old(self):
        mine = self.left(f"{whole.temporary_prefix()}x{whole.PART}")
        dead = self.left(f"{whole._NAMES}{whole._PLACE}-999999999-x{whole.PART}")
        folder = self.left(f"{whole._NAMES}{whole._PLACE}-999999998-x{whole.PART}", is_folder=True)
        strange = self.left(f"{whole._NAMES}elsewhere-1-x{whole.PART}")
        unknown = self.left(f"{whole._NAMES}{whole._PLACE}-word-x{whole.PART}")
        named = self.left(f"{whole._NAMES}{whole._PLACE}-999999999-x.ember")
        kept = [mine, strange, unknown, named]
        whole.sweep(self.folder)
        self.assertEqual([path.exists() for path in (dead, folder)], [False, False])
        self.assertTrue(all(path.exists() for path in kept))
        old = time.time() - whole._OLD
        os.utime(strange, (old + 60, old + 60))
        whole.sweep(self.folder)
        self.assertTrue(strange.exists())
        os.utime(strange, (old - 60, old - 60))
        whole.sweep(self.folder)
        self.assertEqual([path.exists() for path in kept], [True, False, True, True])

    def test_a_save_takes_what_the_dead_left_beside_it_away(self):
        dead = self.left(f"{whole._NAMES}{whole._PLACE}-999999999-x{whole.PART}")
        whole.write_whole(self.file, b"new")
        self.assertFalse(dead.exists())

    def test_a_place_is_told_by_more_than_its_name(self):
        own = whole._own_place()
        self.assertEqual(own, whole._own_place())
        with mock.patch.object(whole.os, "readlink", return_value="pid:[1]"):
            self.assertNotEqual(whole._own_place(), own)
        with mock.patch.object(whole.os, "readlink", side_effect=OSError):
            self.assertNotEqual(whole._own_place(), whole._own_place())
