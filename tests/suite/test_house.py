"""The house itself: what docstrings refer to is there, and nothing stands in it that nobody uses."""

import ast
import re
import unittest
from pathlib import Path

TOP = Path(__file__).parents[2]
SOURCE = TOP / "src" / "pale_ember"
PARAMETERS = re.compile(r"Parameters\n-+\n(.*?)(?:\n\n?[A-Z][a-z]+\n-+\n|\Z)", re.S)
REFERENCE = re.compile(r":(mod|func|class|meth):`~?(\.*)([^`]+)`")
# What Python, Qt, Numba and trimesh call by its name.
CALLED_FROM_OUTSIDE = re.compile(
    r"^(__\w+__|_generate_next_value_|\w+Event|can_convert_from|generic_resolve|get_reference|get_source_stamp|from_function"
    r"|namespaced)$"
)
# Decorators by which pydantic, Numba and the checks learn of what stands below them.
REGISTERED = re.compile("validator|register|unbox|infer|lower|check")


def parsed(folder):
    """Return the files of a folder with their text and their trees."""
    for path in sorted(folder.rglob("*.py")):
        if "plain" not in path.parts and "node_modules" not in path.parts:
            text = path.read_text(encoding="utf-8")
            yield path, text, ast.parse(text)


def module_of(path):
    parts = path.relative_to(SOURCE.parent).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def definitions(tree):
    return [node for node in ast.walk(tree) if isinstance(node, ast.FunctionDef | ast.ClassDef)]


def described(listed):
    """Return the names that a list of parameters tells of."""
    heads = re.findall(r"^(\S.*?) :", listed, re.M)
    return {name.strip().lstrip("*") for head in heads for name in head.split(",")}


def arguments(node):
    """Return what a function takes, or a class to be made."""
    inside = node.body if isinstance(node, ast.ClassDef) else [node]
    found = [one for one in inside if isinstance(one, ast.FunctionDef)]
    taking = next((one for one in found if one.name == "__init__"), node)
    if not isinstance(taking, ast.FunctionDef):
        # A tuple with names, or a dataclass.
        return {one.target.id for one in node.body if isinstance(one, ast.AnnAssign)}
    some = taking.args
    return {
        one.arg for one in (*some.posonlyargs, *some.args, *some.kwonlyargs, some.vararg, some.kwarg) if one
    }


class HouseTest(unittest.TestCase):
    def test_what_docstrings_refer_to_is_there(self):
        files = list(parsed(SOURCE))
        modules = {module_of(path) for path, _, _ in files}
        names = {node.name for _, _, tree in files for node in definitions(tree)}
        self.assertGreater(len(names), 2000)
        for path, text, _ in files:
            here = module_of(path).split(".")
            folder = here if path.stem == "__init__" else here[:-1]
            for kind, dots, name in REFERENCE.findall(text):
                parts = name.split(".")
                owner = [] if kind == "mod" else [parts.pop()]
                while parts and parts[-1][:1].isupper():
                    owner.insert(0, parts.pop())
                said = f"{path.relative_to(TOP)}: {dots}{name}"
                self.assertEqual(set(owner) - names, set(), said)
                if dots:
                    whole = ".".join([*folder[: len(folder) - len(dots) + 1], *parts])
                    self.assertIn(whole, modules, said)

    def test_no_file_is_longer_than_one_reads_at_once(self):
        for folder in ("src", "tests", "bench", "docs", "examples"):
            for path, text, _ in parsed(TOP / folder):
                self.assertLessEqual(text.count("\n"), 400, path)

    def test_no_function_is_longer_than_a_screen(self):
        for folder in ("src", "tests", "bench", "docs", "examples"):
            for path, _, tree in parsed(TOP / folder):
                for node in definitions(tree):
                    if isinstance(node, ast.FunctionDef):
                        # What is compiled is longer: loops over rows are plain there.
                        marks = " ".join(ast.unparse(mark) for mark in node.decorator_list)
                        most = 80 if re.search("kernel|helper|jit|force", marks) else 60
                        length = node.end_lineno - node.lineno + 1
                        self.assertLessEqual(length, most, f"{path}: {node.name}")

    def test_each_function_of_some_length_says_what_it_does(self):
        for path, _, tree in parsed(SOURCE):
            for node in definitions(tree):
                long = (node.end_lineno or 0) - node.lineno > 10
                if long and not CALLED_FROM_OUTSIDE.match(node.name):
                    said = f"{path.relative_to(TOP)}: {node.name} has no docstring"
                    self.assertIsNotNone(ast.get_docstring(node), said)

    def test_docstrings_tell_of_parameters_that_there_are(self):
        seen = 0
        for path, _, tree in parsed(SOURCE):
            for node in definitions(tree):
                listed = PARAMETERS.search(ast.get_docstring(node) or "")
                names = described(listed[1]) if listed else set()
                seen += len(names)
                missing = names - arguments(node)
                self.assertEqual(missing, set(), f"{path.relative_to(TOP)}: {node.name}")
        self.assertGreater(seen, 300)

    def test_no_closure_waits_for_the_end_of_an_object_of_qt(self):
        for path, text, _ in parsed(SOURCE):
            for given in re.findall(r"destroyed\.connect\(([^\n]*)", text):
                # Of a circle that Python takes apart a function may be called without its variables.
                self.assertRegex(given, r"^self\.\w+\)$", path)

    def test_nothing_is_defined_that_nobody_names(self):
        counted = {}
        for folder in ("src", "tests", "bench", "docs", "examples"):
            for _, text, _ in parsed(TOP / folder):
                for word in re.findall(r"[A-Za-z_]\w*", text):
                    counted[word] = counted.get(word, 0) + 1
        alone = []
        for path, _, tree in parsed(SOURCE):
            for node in definitions(tree):
                registered = any(REGISTERED.search(ast.dump(mark)) for mark in node.decorator_list)
                called = registered or CALLED_FROM_OUTSIDE.match(node.name)
                if counted[node.name] < 2 and not called:
                    alone.append(f"{path.relative_to(TOP)}:{node.lineno}: {node.name}")
        self.assertEqual(alone, [])


if __name__ == "__main__":
    unittest.main()
