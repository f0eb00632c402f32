"""Rules of the house that no linter looks at: names, private things, lengths."""

import ast
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


def test_functions_are_read_in_one_look() -> None:
    lengths = {
        f"{p.name}:{n.name}": n.end_lineno - n.lineno + 1 for p, n in of_kind(ast.FunctionDef, ast.AsyncFunctionDef)
    }
    arguments = {
        f"{p.name}:{n.name}": len([*n.args.posonlyargs, *n.args.args, *n.args.kwonlyargs])
        for p, n in of_kind(ast.FunctionDef, ast.AsyncFunctionDef)
    }
    assert {name: lines for name, lines in lengths.items() if lines > LONGEST_FUNCTION_LINES} == {}
    assert {name: count for name, count in arguments.items() if count > MOST_ARGUMENTS} == {}


def test_nothing_is_kept_under_the_place_of_an_object_in_memory() -> None:
    """An address is given to another object once the first is gone."""
    asked = [p.name for p, n in of_kind(ast.Call) if isinstance(n.func, ast.Name) and n.func.id == "id"]
    assert asked == []


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
