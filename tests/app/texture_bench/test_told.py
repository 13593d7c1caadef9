"""What the bench says of each kind of step, in its menus and tools, and what each command does there."""

from unittest import mock

from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog

from pale_ember.app.widgets.sheet import open_sheet
from pale_ember.app.window.bench_rows import step_menu
from pale_ember.app.window.command_rows import COMMANDS
from pale_ember.effect.steps import STEPS

from ..told import AWAY, ToldCase, told_menu
from .bench_case import SheetCase


class BenchTold(ToldCase, SheetCase):
    def test_fields_of_every_step(self):
        lines = []
        path = self.bench.path("build.steps")
        for name in STEPS:
            self.session.edit(path, [{"step": "dot"}, {"step": name}], "Step")
            self.bench.select(1)
            lines += [f"== {name}", *self.told(self.window.step_panel, tips=False)]
        self.assert_says("bench-steps", lines)

    def test_menus_tools_and_lists(self):
        self.assert_says("menu-steps", told_menu(step_menu(self.window)))
        self.bench.select(1)
        self.assert_says("bench-tools", self.told(self.window.tools))
        self.assert_says("bench-list", self.told(self.window.step_list))
        self.assert_says("bench-strip", self.told(self.window.frame_strip))

    def state(self):
        bench, session = self.bench, self.session
        sheet = open_sheet(self.window)
        return {
            "texture": bench.name,
            "steps": " ".join(f"{step.step}{'' if step.on else ' off'}" for step in bench.steps),
            "step": bench.index,
            "frame": "goes on" if session.playing else bench.frame,
            "channel": bench.channel,
            "tiled": bench.tiled,
            "size": bench.build.size if bench.build is not None else 0,
            "seed": bench.build.seed if bench.build is not None else 0,
            "made": bench.texture.made if bench.texture is not None else 0,
            "textures": " ".join(texture.name for texture in session.effect.textures),
            "layers": " ".join(layer.name for layer in session.effect.layers),
            "wears": " ".join(layer.look.texture for layer in session.effect.layers),
            "playing": session.playing,
            "sheet": type(sheet).__name__ if sheet is not None else "",
            "history": session.document.history[session.document.index].name,
            "clip": QApplication.clipboard().text()[:60].replace("\n", " "),
            "zoom": round(self.view.box.width()),
        }

    def prepare(self):
        while self.session.document.index > 0:
            self.session.undo()
        if self.bench.name != "puff":
            self.bench.open("puff")
        self.session.play(False)
        self.bench.select(1)
        self.bench.show_frame(0)
        self.view.placing.reset()
        QApplication.clipboard().clear()

    def test_what_each_command_does_here(self):
        said, lines = [], []
        self.session.said.connect(said.append)
        with (
            mock.patch.object(QInputDialog, "getText", return_value=("Typed", True)),
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")),
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=("", "")),
        ):
            for command in COMMANDS:
                if command.name in AWAY or command.name.startswith("demo_"):
                    continue
                self.prepare()
                said.clear()
                before = self.state()
                self.window.actions_by_name[command.name].trigger()
                QApplication.processEvents()
                after = self.state()
                changed = [
                    f"{key}: {before[key]} -> {after[key]}" for key in before if before[key] != after[key]
                ]
                popup = QApplication.activePopupWidget()
                if popup is not None:
                    changed.append("opens a menu")
                    popup.close()
                sheet = open_sheet(self.window)
                if sheet is not None:
                    sheet.close()
                if self.window.panels.stage_alone:
                    self.window.toggle_stage_alone()
                lines.append(f"{command.name}: {'; '.join([*changed, *said])}")
        self.assert_says("commands-done-bench", lines)
