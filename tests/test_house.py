"""Rules of the house that no linter looks at: names, private things, lengths."""

import ast
import re
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path

import clavis

SOURCE = Path(clavis.__file__).parent
TREES = {path: ast.parse(path.read_text(encoding="utf-8")) for path in sorted(SOURCE.rglob("*.py"))}
LONGEST_FUNCTION_LINES, MOST_ARGUMENTS = 80, 8

Function = ast.FunctionDef | ast.AsyncFunctionDef


def of_kind(*kinds: type[ast.AST]) -> Iterator[tuple[Path, ast.AST]]:
    return ((path, node) for path, tree in TREES.items() for node in ast.walk(tree) if isinstance(node, kinds))


def test_no_class_name_stands_for_two_things() -> None:
    places = defaultdict(list)
    for path, node in of_kind(ast.ClassDef):
        places[node.name].append(path.relative_to(SOURCE).as_posix())
    assert len(places) > 200
    assert {name: found for name, found in places.items() if len(found) > 1} == {}


def test_nobody_imports_a_private_name() -> None:
    taken = [
        f"{path.name}: {alias.name}"
        for path, node in of_kind(ast.ImportFrom)
        for alias in node.names
        if alias.name.startswith("_") and not alias.name.startswith("__")
    ]
    assert taken == []


def body_lines(function: Function) -> int:
    """Lines of a function without its docstring, which may be as long as it helps."""
    first = function.body[0]
    told = isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant) and isinstance(first.value.value, str)
    return function.end_lineno - function.lineno + 1 - (first.end_lineno - first.lineno + 1 if told else 0)


def test_functions_are_read_in_one_look() -> None:
    functions = {f"{p.name}:{n.name}": n for p, n in of_kind(ast.FunctionDef, ast.AsyncFunctionDef)}
    lengths = {name: body_lines(function) for name, function in functions.items()}
    arguments = {
        name: len([*f.args.posonlyargs, *f.args.args, *f.args.kwonlyargs]) for name, f in functions.items()
    }  # fmt: skip
    assert {name: lines for name, lines in lengths.items() if lines > LONGEST_FUNCTION_LINES} == {}
    assert {name: count for name, count in arguments.items() if count > MOST_ARGUMENTS} == {}


EQUATIONS = [
    SOURCE / "core/fit/mount_geometry.py",
    SOURCE / "core/fit/bolts.py",
    *(SOURCE / "core/physics").glob("*.py"),
]
PLUMBING = {"compiled", "inlined", "arrays_of", "passes_through", "under_head", "head_across_mm"}


def test_every_equation_has_a_worked_value() -> None:
    """A public function of physics, mount geometry and bolts shows one value that the tests work out again."""
    bare = [
        f"{path.name}:{node.name}"
        for path in EQUATIONS
        for node in TREES[path].body
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and node.name not in PLUMBING
        if ">>>" not in (ast.get_docstring(node) or "")
    ]
    assert bare == []


def test_nothing_is_kept_under_the_place_of_an_object_in_memory() -> None:
    """An address is given to another object once the first is gone; what is weighed is held while it is."""
    asked = {p.name for p, n in of_kind(ast.Call) if isinstance(n.func, ast.Name) and n.func.id == "id"}
    assert asked <= {"held_bytes.py"}


def test_every_cache_has_a_bound() -> None:
    """Nothing is remembered without end: no ``functools.cache``, and ``lru_cache`` says how much it keeps."""
    unbounded = [
        f"{path.name}:{node.name}"
        for path, node in of_kind(ast.FunctionDef)
        for decorator in node.decorator_list
        if ast.unparse(decorator)
        in ("cache", "functools.cache", "lru_cache", "lru_cache(None)", "lru_cache(maxsize=None)")
    ]
    assert unbounded == []


UNIT = re.compile(r"\d\s?(?:mm|cm|m|km|km/h|°C|kg|N|N·m|bar|kJ|W|K)\b")
NAMED_SO = re.compile(r"\d mm hex|8 mm spanner|\d mm through|100 mm ruler|100 mm: measure it|per 100 K")
"""keys, axles and the printed ruler are called by their millimetres"""


def told_strings(tree: ast.Module) -> Iterator[ast.Constant]:
    """Every string of a module but those that document it."""
    documents = {
        node.value
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }  # fmt: skip
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and node not in documents:
            yield node


def test_no_sentence_has_a_unit_written_into_it() -> None:
    """A quantity is a place in a template, told in the reader's units."""
    fixed = [
        f"{path.name}:{node.lineno}: {node.value[:60]}"
        for path, tree in TREES.items()
        if "demo" not in path.parts
        for node in told_strings(tree)
        if UNIT.search(NAMED_SO.sub("", node.value))
    ]
    assert fixed == []
