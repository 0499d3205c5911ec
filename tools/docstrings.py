"""``python tools/docstrings.py [FILE …]``: whether public docstrings say what the signature and the body do.

Of every public function and method outside kernels, widgets and commands: the section Parameters names every parameter, in order,
and no
other; a returned value is named by a summary that begins with "Return" or "Yield", or by a section; every exception that the body
raises stands under Raises. A member of a registry has the signature of its decorator, and ``See :class:`X``` hands on to another
text.
Ends with 1 where something is missing. ``make test`` runs it.
"""

from __future__ import annotations

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1] / "src" / "yapa"
ELSEWHERE = ("engine/kernels/", "desktop/", "cli/commands/", "cli/app.py")
"""Kernels and widgets; and commands, whose docstring is their help."""
REGISTRIES = {"outcome", "case_check", "motion_check", "track_reader", "exporter", "wraps"}
"""Decorators that say what a function's parameters are."""
MAKES = {"bad_input": "InputError", "input_error": "InputError"}
"""Functions that make an exception."""
SECTION = re.compile(r"^(Parameters|Returns|Yields|Raises|Examples|Attributes|Notes)\n-+\n", re.MULTILINE)


def sections(text: str) -> dict[str, str]:
    """Name → text of every section of a docstring; what stands before them is the summary."""
    found = list(SECTION.finditer(text))
    ends = [*(m.start() for m in found[1:]), len(text)][: len(found)]
    out = {"summary": text[: found[0].start()] if found else text}
    return out | {m[1]: text[m.end() : end] for m, end in zip(found, ends, strict=True)}


def _names(section: str) -> list[str]:
    """Names that begin the unindented lines of a section; those before a colon, parted by commas."""
    lines = [line for line in section.split("\n") if line and not line.startswith(" ")]
    return [name.strip().lstrip("*") for line in lines for name in line.partition(" : ")[0].split(",")]


def _own(node: ast.AST) -> Iterator[ast.AST]:
    """Nodes of a function's own body, without those of functions inside it."""
    for child in ast.iter_child_nodes(node):
        if not isinstance(child, ast.FunctionDef | ast.Lambda | ast.ClassDef):
            yield child
            yield from _own(child)


def raised(function: ast.FunctionDef) -> set[str]:
    """Names of the exceptions that a body raises by itself and does not catch."""
    caught = {ast.unparse(t) for n in _own(function) if isinstance(n, ast.Try) for h in n.handlers if h.type is not None
              for t in (h.type.elts if isinstance(h.type, ast.Tuple) else [h.type])}
    out = set()
    for node in _own(function):
        if isinstance(node, ast.Raise) and node.exc is not None:
            made = node.exc.func if isinstance(node.exc, ast.Call) else node.exc
            name = ast.unparse(made).rpartition(".")[2]
            if name[:1].isupper() or name in MAKES:
                out.add(MAKES.get(name, name))
    return out - caught - {"AssertionError", "NotImplementedError"}


def faults(function: ast.FunctionDef) -> Iterator[str]:
    """What a public function's docstring does not say, or says of what is not there."""
    text = ast.get_docstring(function)
    decorators = {ast.unparse(d).partition("(")[0].rpartition(".")[2] for d in function.decorator_list}
    if text is None or text.startswith("See :") or decorators & REGISTRIES or "overload" in decorators:
        return
    found = sections(text)
    arguments = function.args
    wanted = [a.arg for a in (*arguments.posonlyargs, *arguments.args, *([arguments.vararg] if arguments.vararg else []),
                              *arguments.kwonlyargs, *([arguments.kwarg] if arguments.kwarg else []))]
    wanted = [name for name in wanted if name not in ("self", "cls")]
    said = _names(found.get("Parameters", ""))
    if wanted != said:
        missing, more = [n for n in wanted if n not in said], [n for n in said if n not in wanted]
        if missing or more:
            yield "; ".join(f"{what} {', '.join(names)}" for what,
                            names in (("no word on", missing), ("no parameter", more)) if names)
    returns = None if function.returns is None else ast.unparse(function.returns)
    gives = returns not in (None, "None", "NoReturn") and not decorators & {"property", "cached_property", "setter"}
    if gives and not re.match(r"(Return|Yield|Iterate|Context)", text) and not {"Returns", "Yields"} & set(found):
        yield "no word on what it returns"
    if left := raised(function) - set(re.findall(r"^(\w+)", found.get("Raises", ""), re.MULTILINE)):
        yield f"Raises does not name {', '.join(sorted(left))}"


def public(tree: ast.AST) -> Iterator[ast.FunctionDef]:
    """Public functions of a module and methods of its public classes."""
    for node in ast.iter_child_nodes(tree):
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            yield node
        elif isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            yield from public(node)


def check(path: Path) -> list[str]:
    """Every fault of a file, with its place."""
    return [f"{path}:{function.lineno}: {function.name}: {fault}"
            for function in public(ast.parse(path.read_text())) for fault in faults(function)]


def files() -> list[Path]:
    """The files that are checked."""
    return [p for p in sorted(ROOT.rglob("*.py")) if not p.relative_to(ROOT).as_posix().startswith(ELSEWHERE)]


def main() -> int:
    found = [fault for path in ([Path(a) for a in sys.argv[1:]] or files()) for fault in check(path)]
    print("\n".join(found))
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
