"""What the mouse, keys and what is typed do in the panel that hands over and in the colour picker."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from pale_ember.app.widgets.color_picker import Picker
from pale_ember.app.widgets.controls import Check, Combo, Line
from pale_ember.app.widgets.number_box import NumberBox

from ...building import effect_with
from ..gestures import LEFT, GestureCase, pull

# What is typed into numbers: of texts, names and folders.
NUMBERS, TEXTS = ("+3", "1000000"), ("word", "")


class HandOverGestures(GestureCase):
    def first_effect(self):
        return effect_with({"flame": {"emit.rate": 30}, "smoke": {}})

    def setUp(self):
        super().setUp()
        self.window.show_hand_over(True)
        self.panel, self.desk = self.window.hand_over_panel, self.window.desk
        self.desk.reset_profile()
        self.desk.go_to("")
        # What is chosen here would be the next window's too.
        self.addCleanup(self.window.files.settings.remove, "hand over")
        self.at = 0

    def state(self):
        """Return the command line, what is said of it, and which fields there are."""
        rows = {path: row for path, row in self.panel.rows.items() if not row.isHidden()}
        refused = [row.problem.text() for row in rows.values() if not row.problem.isHidden()]
        return {
            "line": self.desk.line().replace(self.folder.name, "…"),
            "words": self.panel.words.text(),
            "refused": " ".join(refused),
            "fields": len(rows),
            "profile": self.panel.profile.text(),
            "button": self.panel.foot.go.text(),
        }

    def prepare(self):
        self.desk.reset_profile()
        self.panel.show_chapter(self.at)
        for row in self.panel.rows.values():
            row.say_refused("")

    def type(self, path, text):
        box = self.panel.rows[path].parts.controls[0]
        QTest.mouseClick(box, LEFT)
        box.selectAll()
        QTest.keyClicks(box, text) if text else QTest.keyClick(box, Qt.Key.Key_Delete)
        QTest.keyClick(box, Qt.Key.Key_Return)

    def choose(self, path, i):
        combo = self.panel.rows[path].parts.controls[0]
        combo.setCurrentIndex(i)
        combo.textActivated.emit(combo.itemText(i))

    def test_every_field_of_every_product(self):
        self.panel.make()
        for at in range(self.panel.pages.count()):
            self.at = at
            self.prepare()
            section = "budget" if at == self.panel.pages.count() - 1 else str(self.desk.product)
            for path, row in self.panel.rows.items():
                if not path.startswith(f"{section}.") or not row.parts.controls:
                    continue
                part, words = row.parts.controls[0], f"{section} {row.rule.label}"
                if isinstance(part, NumberBox):
                    for text in NUMBERS:
                        self.does(
                            f"type “{text}” into {words}", lambda path=path, text=text: self.type(path, text)
                        )
                elif isinstance(part, Check):
                    self.does(f"click {words}", lambda part=part: pull(part, QPointF(8, 11), QPointF()))
                elif isinstance(part, Combo):
                    for i in range(part.count()):
                        self.does(
                            f"choose {part.itemText(i)} of {words}",
                            lambda path=path, i=i: self.choose(path, i),
                        )
                elif isinstance(part, Line):
                    for text in TEXTS:
                        self.does(
                            f"type “{text}” into {words}", lambda path=path, text=text: self.type(path, text)
                        )
        self.assert_says("gestures-hand-over", self.lines)


class PickerGestures(GestureCase):
    def setUp(self):
        super().setUp()
        self.picker = Picker(self.window, "#c07040", "Colour")
        self.addCleanup(self.picker.close)
        self.given = []
        self.picker.chosen.connect(self.given.append)
        self.picker.show()
        self.activate(self.picker)

    def state(self):
        picker = self.picker
        return {
            "color": picker.color,
            "oklch": [round(float(one), 3) for one in (picker.lightness, picker.chroma, picker.hue)],
            "given": " ".join(self.given),
            "hex": picker.hex.text(),
            "problem": picker.problem.text(),
            "boxes": " ".join(box.text() for box in picker.boxes.values()),
        }

    def prepare(self):
        picker = self.picker
        picker.hex.setModified(False)
        picker._say("")
        picker.set_color("#c07040")
        self.given.clear()

    def type(self, box, text):
        QTest.mouseClick(box, LEFT)
        box.selectAll()
        QTest.keyClicks(box, text)
        QTest.keyClick(box, Qt.Key.Key_Return)

    def test_colours_are_chosen_by_the_mouse_by_keys_and_by_what_is_typed(self):
        picker, arrows = self.picker, ("Left", "Right", "Up", "Down")
        for part, words in ((picker.plane, "the plane"), (picker.hues, "the hues")):
            for x, y in ((0.5, 0.5), (0.0, 0.2), (0.99, 0.8)):
                at = QPointF(round(x * part.width()), round(y * part.height()))
                self.clicks(f"{words} at {x}, {y}", part, at)
            self.drags(words, part, QPointF(5, 20), QPointF(500, -300))
            self.keys(f"on {words}", part, arrows)
        for name, box in picker.boxes.items():
            for text in ("*1.2", "0"):
                self.does(f"type “{text}” into {name}", lambda box=box, text=text: self.type(box, text))
        for text in ("#102030", "abcdef", "12345", "nothing"):
            self.does(f"type “{text}” into hex", lambda text=text: self.type(picker.hex, text))
        self.assert_says("gestures-picker", self.lines)
