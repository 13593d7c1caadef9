"""What the bench says of each kind of step, and in its menus and tools."""

from PyQt6.QtTest import QTest

from pale_ember.app.window.bench_rows import step_menu
from pale_ember.effect.steps import STEPS

from ..told import ToldCase, told, told_menu
from .bench_case import SheetCase


class BenchTold(ToldCase, SheetCase):
    def test_fields_of_every_step(self):
        lines = []
        path = self.bench.path("build.steps")
        for name in STEPS:
            self.session.edit(path, [{"step": "dot"}, {"step": name}], "Step")
            self.bench.select(1)
            QTest.qWait(10)
            lines += [f"== {name}", *told(self.window.step_panel, tips=False)]
        self.assert_says("bench-steps", lines)

    def test_menus_tools_and_lists(self):
        self.assert_says("menu-steps", told_menu(step_menu(self.window)))
        self.bench.select(1)
        self.assert_says("bench-tools", told(self.window.tools))
        self.assert_says("bench-list", told(self.window.step_list))
        self.assert_says("bench-strip", told(self.window.frame_strip))
