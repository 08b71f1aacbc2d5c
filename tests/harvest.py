"""Real expressions, harvested from what is installed: the standard library and a syntax highlighter's lexers."""

from __future__ import annotations

import ast
import sysconfig
import warnings
from functools import cache
from importlib.util import find_spec
from pathlib import Path

METHODS = {"compile", "match", "search", "fullmatch", "sub", "findall", "finditer", "split"}


@cache
def expressions() -> tuple[str, ...]:
    """Return several thousand expressions, sorted."""
    lexers = find_spec("pygments.lexers")
    assert lexers is not None and lexers.submodule_search_locations is not None
    files = list(Path(sysconfig.get_paths()["stdlib"]).glob("*.py"))
    files += Path(lexers.submodule_search_locations[0]).glob("[a-l]*.py")
    found: set[str] = set()
    for file in files:
        try:
            warnings.simplefilter("ignore")
            tree = ast.parse(file.read_text(encoding="utf-8", errors="ignore"))
        except SyntaxError:
            continue
        for node in ast.walk(tree):
            found.update(_given_to_re(node), _first_of_tuple(node) if "lexers" in str(file) else ())
    return tuple(sorted(found))


def _given_to_re(node: ast.AST) -> list[str]:
    called = isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in METHODS
    return _texts(node.args[:1]) if called and isinstance(node, ast.Call) else []


def _first_of_tuple(node: ast.AST) -> list[str]:
    return _texts(node.elts[:1]) if isinstance(node, ast.Tuple) and len(node.elts) >= 2 else []


def _texts(nodes: list[ast.expr]) -> list[str]:
    return [node.value for node in nodes if isinstance(node, ast.Constant) and isinstance(node.value, str)]
