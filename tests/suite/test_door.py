"""What stands at the door: examples that run, the page of the Python API as its docstrings say, links
that lead somewhere.
"""

import contextlib
import importlib.util
import io
import re
import tempfile
import unittest
from pathlib import Path

from pale_ember.effect import load_effect, save_effect
from pale_ember.effect.values.values import Fixed
from tests.building import single

TOP = Path(__file__).parents[2]


def loaded(path):
    """Return a script of the project as a module."""
    spec = importlib.util.spec_from_file_location(path.stem, path)
    made = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(made)
    return made


class ExampleTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "spark.ember"
        save_effect(single({"emit.rate": 30, "launch.lifetime": 5, "launch.speed": 2}), self.file)

    def said(self, name, *given):
        with contextlib.redirect_stdout(io.StringIO()) as heard:
            loaded(TOP / "examples" / name).main(str(self.file), *given)
        return heard.getvalue().splitlines()

    def test_births_are_counted(self):
        counts = [int(line.rpartition(" ")[2]) for line in self.said("count_births.py", 2)]
        self.assertEqual(counts, [0, 30, 60])

    def test_variations_are_effects_of_their_own(self):
        written = self.said("variations.py", str(self.folder), "0.5", "3")
        rates = [load_effect(file).layers[0].emit.rate for file in written]
        self.assertEqual(rates, [Fixed(15.0), Fixed(90.0)])

    def test_the_highest_is_found(self):
        (line,) = self.said("highest.py", 1.0)
        self.assertIn("2.00 m/s", line)


class PageTest(unittest.TestCase):
    def test_the_page_of_the_python_api_is_what_its_docstrings_say(self):
        self.assertEqual(
            (TOP / "docs" / "api.md").read_text(encoding="utf-8"), loaded(TOP / "docs" / "make_api.py").page()
        )

    def test_links_of_the_documents_lead_somewhere(self):
        pages = [*TOP.glob("*.md"), *TOP.glob("docs/*.md"), *TOP.glob("bench/*.md")]
        self.assertGreater(len(pages), 10)
        for page in pages:
            for link in re.findall(r"\]\(([^)#:]+)(?:#[^)]*)?\)", page.read_text(encoding="utf-8")):
                self.assertTrue((page.parent / link).exists(), f"{page.name}: {link}")

    def test_files_that_the_documents_name_are_there(self):
        for page in (*TOP.glob("*.md"), *TOP.glob("docs/*.md")):
            for name in re.findall(
                r"`((?:src/pale_ember|tests|bench|docs|examples)/[\w/.-]+)`", page.read_text(encoding="utf-8")
            ):
                self.assertTrue((TOP / name).exists(), f"{page.name}: {name}")


if __name__ == "__main__":
    unittest.main()
