"""Nothing is cut and nothing lies over another, at every size, in every chapter, with groups open and
shut.
"""

import os
import subprocess
import sys
import unittest

from PyQt6.QtWidgets import QApplication

from pale_ember.demo import kiln_mouth
from pale_ember.effect.effect import Effect

from ...building import effect_with
from ..case import WindowCase
from .layout_check import faults

EVERYTHING = {
    "emit.bursts": [{"at": 0.5, "count": {"spread": [5, 9]}}],
    "path": [{}, {"at": 1, "position": [1000.25, -200.5, 3]}],
    "birthplace.kind": "cylinder",
    "flight.thrust": [{"spread": [-1, 1]}, {"curve": [[0, 0], [1, 1]]}, 0.5],
    "flight.turbulence": 1,
    "look.tint": {"spread": ["#ffffff", "#808080"]},
    "launch.lifetime": {"spread": [100.25, 3000.5]},
}


class SizesTest(WindowCase):
    def first_effect(self):
        effect = kiln_mouth()
        return effect.edit("layers", (*effect.layers, *effect_with({"all": EVERYTHING}).layers))

    def look(self, where):
        # Layouts inside one another settle in turn.
        for _ in range(3):
            QApplication.processEvents()
        wrong = faults(self.window)
        self.assertEqual(wrong, [], where)

    def test_all_chapters_at_all_sizes(self):
        self.session.play(False)
        self.window.stage.setUpdatesEnabled(False)
        for size in ((1024, 640), (2560, 1440)):
            self.window.resize(*size)
            self.window.arrange()
            QApplication.processEvents()
            self.assertEqual((self.window.width(), self.window.height()), size)
            for layer in ("core", "all"):
                self.session.select(layer)
                for chapter, (name, page) in enumerate(self.window.recipe.chapters.items()):
                    self.window.recipe.show_chapter(chapter)
                    self.look((size, layer, name, "shut"))
                    for group in page.groups:
                        for at in group.rows:
                            if page.in_layer:
                                page.open_field(at)
                    self.look((size, layer, name, "open"))
            self.session.select("core")
            self.session.select("all", "also")
            for chapter in range(6):
                self.window.recipe.show_chapter(chapter)
                self.look((size, "both", chapter))
            self.window.recipe.search.setText("e")
            self.look((size, "search"))
            self.window.recipe.show_chapter(0)

    def test_folded_panels_full_widths_and_the_stage_alone(self):
        self.window.stage.setUpdatesEnabled(False)
        for size in ((1024, 640), (1280, 800)):
            self.window.resize(*size)
            for name in (
                "fold_recipe",
                "fold_timeline",
                "fold_strip",
                "fold_timeline",
                "fold_recipe",
                "fold_strip",
                "wide",
                "wide",
                "wide_time",
                "wide_time",
                "stage_alone",
                "stage_alone",
            ):
                self.window.actions_by_name[name].trigger()
                self.look((size, name, sorted(self.window.panels.folded)))

    def test_a_long_name_and_a_long_word_from_the_program_leave_all_else_in_view(self):
        self.session.edit(
            "name", "A very long name for an effect that nobody would ever give to one, but who knows", "Name"
        )
        self.session.said.emit("Something went wrong, and this is a long sentence about it. " * 3)
        self.window.resize(1024, 640)
        self.look("long")
        self.window.files.show(Effect(), None)
        self.look("blank")


@unittest.skipUnless(os.environ.get("DISPLAY"), "needs a display")
class ScaleTest(unittest.TestCase):
    def test_nothing_is_cut_at_twice_the_scale(self):
        code = (
            "import sys; sys.path.insert(0, '.')\n"
            "from tests.app.window.test_sizes import SizesTest\n"
            "import unittest\n"
            "from PyQt6.QtWidgets import QApplication\n"
            "class Twice(SizesTest):\n"
            "    def test_twice(self):\n"
            "        self.assertEqual(self.window.devicePixelRatioF(), 2.0)\n"
            "        self.window.resize(1280, 800)\n"
            "        for chapter in range(6):\n"
            "            self.window.recipe.show_chapter(chapter)\n"
            "            self.look(chapter)\n"
            "        image = self.window.stage.picture()\n"
            "        self.assertEqual(image.width(), 2 * self.window.stage.width())\n"
            "done = unittest.TextTestRunner().run(unittest.TestSuite([Twice('test_twice')]))\n"
            "import os; os._exit(not done.wasSuccessful())\n"
        )
        env = {**os.environ, "QT_SCALE_FACTOR": "2"}
        done = subprocess.run(
            [sys.executable, "-c", code], env=env, capture_output=True, text=True, timeout=120, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr[-3000:])


if __name__ == "__main__":
    unittest.main()
