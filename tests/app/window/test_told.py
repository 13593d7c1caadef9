"""What commands, menus and sheets say, and what each command does."""

import os
from unittest import mock

from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog

from pale_ember.app.session.document import Document
from pale_ember.app.widgets.sheet import open_sheet
from pale_ember.app.window.command_rows import COMMANDS
from pale_ember.effect import Effect

from ...building import effect_with
from ..told import AWAY, ToldCase, told_menu


def dialogs():
    """Return the dialogs that are open."""
    return [one for one in QApplication.topLevelWidgets() if isinstance(one, QDialog) and one.isVisible()]


def parts_of(window):
    """Return the window's large parts, by name."""
    return {
        "stage": window.stage,
        "recipe": window.recipe,
        "timeline": window.timeline,
        "strip": window.strip,
        "hand over": window.hand_over_panel,
        "top bar": window.top_bar,
        "slim bar": window.slim_bar,
    }


def state_of(window) -> dict[str, object]:
    """Return what a command can change, in words and numbers."""
    session = window.session
    effect = session.effect
    sheet = open_sheet(window)
    return {
        "step": session.document.history[session.document.index].name,
        "steps": session.document.index,
        "layers": " ".join(layer.name for layer in effect.layers),
        "off": " ".join(layer.name for layer in effect.layers if not layer.enabled),
        "groups": " ".join(layer.group for layer in effect.layers if layer.group),
        "parents": sum(bool(layer.origin.parent) for layer in effect.layers),
        "textures": " ".join(texture.name for texture in effect.textures),
        "loop": effect.loop,
        "backdrop": str(effect.stage.backdrop),
        "figure": effect.stage.figure,
        "props": len(effect.stage.props),
        "selected": " ".join(effect.layer(one).name for one in session.chosen),
        "alone": len(session.alone),
        "playing": session.playing,
        "time": "passes" if session.playing else round(session.time, 3),
        "speed": session.speed,
        "camera": round(session.camera.distance, 2),
        "axes": session.handle_axes,
        "hits": session.watches_hits,
        "wire": window.stage.show_wire,
        "grid": window.stage.show_grid,
        "overdraw": window.stage.show_overdraw,
        "chapter": window.recipe.chapter,
        "axis": window.strip.axis_name,
        "bench": window.bench.name,
        "sheet": type(sheet).__name__ if sheet is not None else "",
        "dialogs": " ".join(type(one).__name__ for one in dialogs()),
        "stage alone": window.panels.stage_alone,
        "seen": " ".join(name for name, part in parts_of(window).items() if part.isVisible()),
        "changed only": window.recipe.only_changed.isChecked(),
        "tracks": window.stage.tracks.on,
        "keys": sum(len(layer.path) for layer in effect.layers),
        "bursts": sum(len(layer.emit.bursts) for layer in effect.layers),
        "clip": QApplication.clipboard().text()[:40].replace("\n", " "),
        "kept camera": round(effect.stage.camera.distance, 2),
        "span": round(window.timeline.view.span, 2),
    }


class CommandsTold(ToldCase):
    def first_effect(self):
        return effect_with(
            {
                "flame": {"group": "fire", "look.texture": "", "emit.rate": 30},
                "embers": {"group": "fire", "contact.enabled": True},
                "glints": {"origin.parent": "embers", "origin.when": "hit"},
            }
        )

    def rows(self):
        QApplication.processEvents()
        found = []
        for command in COMMANDS:
            action = self.window.actions_by_name[command.name]
            said = [command.name, action.text(), action.toolTip(), command.key]
            said += ["on" if action.isChecked() else "off"] if action.isCheckable() else []
            said += [] if action.isEnabled() else ["disabled"]
            found.append(" | ".join(said))
        return found

    def test_what_commands_say_with_layers_without_and_on_the_bench(self):
        self.assert_says("commands-one", self.rows())
        self.session.select("glints")
        self.session.select("flame", "also")
        self.session.play(True)
        self.assert_says("commands-several", self.rows())
        self.session.play(False)
        self.session.select("flame")
        self.window.actions_by_name["new_texture"].trigger()
        self.assert_says("commands-bench", self.rows())
        self.session.open(Document(Effect()))
        self.assert_says("commands-nothing", self.rows())

    def prepare(self, several):
        """Open the effect anew, with one layer selected, or with two, and with steps to undo and redo."""
        session = self.session
        session.open(Document(self.effect))
        session.play(False)
        session.seek(1.0)
        session.select("glints" if several else "embers")
        if several:
            session.select("flame", "also")
            session.edit("layers[0].emit.rate", 50, "One")
            session.edit("layers[0].emit.rate", 60, "Two")
            session.undo()
            session.look_from(session.camera.model_copy(update={"distance": 7.0}))
            self.window.timeline.zoom(1.5)
        QApplication.clipboard().clear()
        self.wait_for_moment()
        self.kept = self.document_state()

    def document_state(self):
        """Return what :meth:`prepare` sets."""
        session, history = self.session, self.session.document.history
        at = (session.document.index, len(history), [id(entry.effect) for entry in history])
        shown = (session.camera, self.window.timeline.view.span, QApplication.clipboard().text())
        return at, session.selected, set(session.others), session.playing, session.time, *shown

    def done_by(self, name, said):
        """Return what a command changes and says; what it opens is closed again."""
        said.clear()
        before = state_of(self.window)
        self.window.actions_by_name[name].trigger()
        QApplication.processEvents()
        after = state_of(self.window)
        changed = [f"{key}: {before[key]} -> {after[key]}" for key in before if before[key] != after[key]]
        sheet = open_sheet(self.window)
        for one in (*dialogs(), *([] if sheet is None else [sheet])):
            one.close()
        while (popup := QApplication.activePopupWidget()) is not None:
            popup.close()
        if self.window.panels.stage_alone:
            self.window.toggle_stage_alone()
        if self.window.bench.is_open:
            self.window.bench.close()
        return f"{name}: {'; '.join([*changed, *said])}"

    def test_what_each_command_does(self):
        self.effect, said = self.first_effect(), []
        self.session.said.connect(said.append)
        with (
            mock.patch.object(QInputDialog, "getText", return_value=("Typed", True)),
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")),
            mock.patch.dict(os.environ, {"PALE_EMBER_LAYERS": f"{self.folder.name}/layers"}),
        ):
            for several in (False, True):
                lines = []
                self.prepare(several)
                for command in COMMANDS:
                    if command.name not in AWAY and not command.name.startswith("demo_"):
                        lines.append(self.done_by(command.name, said))
                        # Most commands change what is shown, and leave the effect as it was.
                        if self.document_state() != self.kept:
                            self.prepare(several)
                self.assert_says(f"commands-done-{'several' if several else 'one'}", lines)

    def test_the_main_menu_and_the_bars(self):
        menu = self.window.top_bar._menu(self.window.files.recent_menu)
        self.assert_says("menu", told_menu(menu))
        self.assert_says("top-bar", self.told(self.window.top_bar))
        self.window.toggle_stage_alone()
        self.assert_says("slim-bar", self.told(self.window.slim_bar))

    def test_sheets(self):
        for name, opening in (
            ("offset", self.window.open_offset),
            ("preferences", self.window.open_preferences),
            ("library", self.window.open_library),
            ("shelf", self.window.open_shelf),
            ("pack", self.window.open_pack),
        ):
            sheet = opening()
            self.assert_says(f"sheet-{name}", self.told(sheet))
            sheet.close()
            QApplication.processEvents()
        finder = self.window.open_finder()
        finder.line.setText("colour")
        self.assert_says("sheet-finder", self.told(finder))
        finder.close()
