"""What typing, dragging, nudging and choosing do to fields of every kind, of one layer and of two."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from pale_ember.app.widgets.controls import Check, Combo, Line, ToolButton
from pale_ember.app.widgets.number_box import NumberBox
from pale_ember.app.widgets.swatch import Preview, Swatch

from ...building import effect_with
from ..gestures import CTRL, HELD, LEFT, PLAIN, SHIFT, GestureCase, pull

# One field of each kind and form.
FIELDS = (
    "launch.lifetime",
    "launch.speed",
    "look.opacity",
    "emit.cap",
    "window.length",
    "place.position",
    "flight.thrust",
    "look.draw",
    "look.color",
    "contact.enabled",
    "look.blend",
)
TYPED = ("0.25", "+1", "*2", "-3", "abc", "99999999", "")


class RecipeGestures(GestureCase):
    def first_effect(self):
        return effect_with(
            {
                "flame": {
                    "launch.lifetime": {"spread": [1, 2]},
                    "look.opacity": {"curve": [[0, 0], [0.2, 1], [1, 0]]},
                    "look.color": {"gradient": [[0, "#ffb060"], [1, "#202020"]]},
                    "flight.thrust": [0, {"curve": [[0, 1], [1, 3]]}, {"spread": [1, 2]}],
                    "flight.gravity": 0.5,
                    "place.position": [0, 0.5, 0],
                },
                "smoke": {"launch.lifetime": {"spread": [3, 4]}, "launch.speed": 2, "emit.cap": 300},
            }
        )

    def setUp(self):
        super().setUp()
        self.window.stage.setUpdatesEnabled(False)
        self.chosen = ("flame",)
        self.wanted, self.tried = [], set()
        wishes = self.window.recipe.wishes
        wishes.color.disconnect()
        wishes.color.connect(lambda places, words: self.wanted.append(words))

    def state(self):
        focus = QApplication.focusWidget()
        return super().state() | {
            "focus": focus.accessibleName() if focus is not None else "",
            "lane": " ".join(self.window.strip.lanes),
            "picker": " ".join(self.wanted),
        }

    def prepare(self):
        session = self.session
        session.select(self.chosen[0])
        for one in self.chosen[1:]:
            session.select(one, "also")
        self.window.strip.show_axis("life")
        self.window.stage.setFocus()
        self.wanted.clear()

    def control(self, path, at):
        """Return a control of a field as it is now: a field may have been made anew."""
        return self.row(path).controls[at]

    def type(self, path, at, text):
        box = self.control(path, at)
        QTest.mouseClick(box, LEFT)
        box.selectAll()
        QTest.keyClick(box, Qt.Key.Key_Delete)
        QTest.keyClicks(box, text)
        row = self.row(path)
        told = row.problem.text() if row.problem is not None and row.problem.isVisible() else ""
        QTest.keyClick(box, Qt.Key.Key_Return)
        after = row.problem.text() if row.problem is not None and row.problem.isVisible() else ""
        for words in dict.fromkeys((told, after)):
            if words:
                self.said.append(words.partition(">")[2].partition("<")[0])

    def try_number(self, path, at, words):
        """Try all that a number takes; of a field's further numbers a little of each."""
        first = at == 0 and words not in self.tried
        self.tried.add(words)
        for text in TYPED if first else ("*2",):
            self.does(f"type “{text}” into {words}", lambda text=text: self.type(path, at, text))
        for way in (2, 3, 40, -70) if first else (20,):
            self.does(
                f"drag {words} by {way}",
                lambda way=way: pull(self.control(path, at), QPointF(9, 9), QPointF(way, 0)),
            )
        for keys in (SHIFT, CTRL) if first else ():
            self.does(
                f"{HELD[keys]}drag {words} by 40",
                lambda keys=keys: pull(self.control(path, at), QPointF(9, 9), QPointF(40, 0), keys),
            )
        for name in ("Up", "Down"):
            for keys in (PLAIN, SHIFT, CTRL) if first else (PLAIN,):
                self.does(
                    f"{HELD[keys]}{name} in {words}",
                    lambda name=name, keys=keys: self.nudge(path, at, name, keys),
                )

    def nudge(self, path, at, name, keys):
        box = self.control(path, at)
        QTest.mouseClick(box, LEFT)
        QTest.keyClick(box, getattr(Qt.Key, f"Key_{name}"), keys)

    def try_field(self, path):
        self.prepare()
        for at, part in enumerate(list(self.row(path).controls)):
            words = part.accessibleName() or path
            if isinstance(part, NumberBox):
                self.try_number(path, at, words)
            elif isinstance(part, Check | Swatch | Preview):
                self.does(
                    f"click {words}", lambda at=at: pull(self.control(path, at), QPointF(8, 11), QPointF())
                )
                self.does(
                    f"Space on {words}",
                    lambda at=at: QTest.keyClick(self.control(path, at), Qt.Key.Key_Space),
                )
            elif isinstance(part, Combo):
                for i in range(part.count()):
                    self.does(
                        f"choose {part.itemText(i)} of {words}", lambda at=at, i=i: self.choose(path, at, i)
                    )
            elif isinstance(part, Line):
                self.does(f"type into {words}", lambda at=at: self.type(path, at, "word"))
            elif isinstance(part, ToolButton) and part.menu() is not None:
                for i, action in enumerate(part.menu().actions()):
                    if not action.isSeparator():
                        self.does(
                            f"choose {action.text()} of {words}",
                            lambda at=at, i=i: self.control(path, at).menu().actions()[i].trigger(),
                        )
        row = self.row(path)
        self.does(f"click the mark of {row.rule.label}", lambda: QTest.mouseClick(self.row(path).mark, LEFT))
        self.does(
            f"click the label of {row.rule.label}", lambda: QTest.mouseClick(self.row(path).label, LEFT)
        )
        self.does(f"copy and paste {row.rule.label}", lambda: (self.row(path).copy(), self.row(path).paste()))

    def choose(self, path, at, i):
        combo = self.control(path, at)
        combo.setCurrentIndex(i)
        combo.textActivated.emit(combo.itemText(i))

    def test_fields_of_one_layer(self):
        for path in FIELDS:
            self.try_field(path)
        self.assert_says("gestures-recipe-one", self.lines)

    def test_fields_of_two_layers(self):
        self.chosen = ("flame", "smoke")
        for path in ("launch.lifetime", "emit.cap", "place.position", "look.draw"):
            self.try_field(path)
        self.assert_says("gestures-recipe-two", self.lines)
