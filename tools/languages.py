"""Words for translators: collects them from the source, and makes catalogues of what was translated.

``tools/languages.py`` brings the catalogues (languages/*/LC_MESSAGES/kyanoscript.po) up to date and compiles them.
Collected are the sentences that go through `tr` and `trn`, and every other text in the source that is made of words:
names of passes and values, what buttons say, help. What is compared, a key or a name for the machine is none.
"""

from __future__ import annotations

import ast
import json
import re
import sys
from collections.abc import Iterator
from io import BytesIO
from pathlib import Path
from typing import Any

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

from kyanoscript.core.blend import MODES
from kyanoscript.core.paper.presses import PRESSES
from kyanoscript.core.paper.sheet import PARTS
from kyanoscript.core.paper.sizes import ROLLS
from kyanoscript.core.params import Declared
from kyanoscript.core.passes import load_all
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.wanted import AIMS
from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.commands.list import COMMANDS

SOURCE = Path(__file__).parents[1] / "src" / "kyanoscript"
FOLDER = SOURCE / "languages"
LANGUAGES = ("de", "fr")
_PLURALS = {"de": (2, "(n != 1)"), "fr": (2, "(n > 1)")}

# Nothing in these is for people
_APART = (
    "core/kernel/", "core/people/", "core/picture/", "core/textures/", "core/render/alike", "core/render/cache",
    "core/script/schema", "core/params/model", "core/params/checks", "core/lettering", "core/colour/", "demo/scripts",
    "files/kept/desktop", "files/kept/recently", "files/base/trash", "files/base/bus", "files/base/xml",
    "files/photos/iptc", "files/photos/notes", "files/prints/pdf", "translation.py", "ui/widgets/theme/",
    "core/tint/reading", "core/tint/words", "files/prints/xmp", "core/late", "core/machine", "files/base/log",
)  # fmt: skip
_CALLS = frozenset((
    "note", "compile", "kernel", "TypeError", "RuntimeError", "AssertionError", "setObjectName", "Signal",
    "getattr", "setattr", "hasattr", "startswith", "endswith", "partition", "rpartition", "split", "rsplit",
    "removeprefix", "removesuffix", "import_module", "environ", "getenv", "joinpath", "Path", "setProperty",
    "property", "lead", "TypeVar", "NewType", "Literal", "encode", "decode", "strftime", "fromisoformat",
    "removeprefix", "sub", "match", "fullmatch", "search", "findall", "finditer", "index", "find", "count", "get",
    "setdefault", "pop", "CDLL", "open",
))  # fmt: skip
_KEYWORDS = frozenset(
    (
        "merge",
        "kind",
        "stage",
        "mark",
        "unit",
        "dest",
        "action",
        "encoding",
        "errors",
        "mode",
        "prefix",
        "program",
        "tags",
    )
)
_WORDS = re.compile(r"[A-Za-zÀ-ÿ]{2,}")


def collected() -> Catalog:
    """Every text, in the order of the source."""
    catalogue = Catalog(project="Kyanoscript", charset="utf-8")
    for path in sorted(SOURCE.rglob("*.py")):
        name = str(path.relative_to(SOURCE))
        if name.startswith(_APART):
            continue
        for one, many, line in texts(path.read_text()):
            catalogue.add((one, many) if many else one, locations=[(name, line)])
    for words, name in (*_of_data(), *_of_tables()):
        catalogue.add(words, locations=[(name, 1)])
    return catalogue


def _of_data() -> Iterator[tuple[str, str]]:
    """Names and lines of what ships as data: recipes, the demo's prints, the words of their passes and sheets."""
    for path in sorted([*(SOURCE / "recipes").glob("*.json"), *(SOURCE / "demo" / "scripts").glob("*.json")]):
        script = json.loads(path.read_text())
        told = script.get("recipe", {})
        for words in (
            told.get("name"),
            told.get("about"),
            str(told.get("group", "")).capitalize(),
            *_named(script.get("passes", [])),
            *script.get("sheets", {}),
        ):
            if words:
                yield words, str(path.relative_to(SOURCE))


def _of_tables() -> Iterator[tuple[str, str]]:
    """Words that tables of the program make, as they are shown."""
    yield from ((mode.replace("-", " "), "core/blend.py") for mode in MODES)
    yield from ((name, "core/paper/sizes.py") for name in ROLLS)
    yield from ((bath.label.lower(), "core/process/baths.py") for bath in BATHS.values())
    yield from ((words, "ui/sheet") for words in ("before", "after", "glossy", "cotton", "vellum", "office"))
    yield "brushed twice", "demo/processes"
    yield from ((words, "core/process/wanted.py") for words in AIMS.values())
    yield from ((press.label, "core/paper/presses.py") for press in PRESSES.values())
    yield from ((words, "ui/commands/list.py") for command in COMMANDS for words in (command.text, command.help))
    models: list[type[Declared]] = [*load_all().values(), *PARTS.values(), Settings]
    yield from ((words, "declarations") for model in models for spec in model.params().values()
                for words in (spec.label, spec.help, spec.group) if words)  # fmt: skip


def _named(passes: list[dict[str, Any]]) -> Iterator[str]:
    for step in passes:
        yield step.get("name", "")
        yield step.get("note", "")
        yield from _named(step.get("run", []))


def texts(source: str) -> Iterator[tuple[str, str, int]]:
    """(text, its plural or nothing, line) of one file."""
    tree = ast.parse(source)
    above: dict[ast.AST, ast.AST] = {child: node for node in ast.walk(tree) for child in ast.iter_child_nodes(node)}
    found: list[tuple[str, str, int]] = []
    taken: set[ast.AST] = set()
    for node in ast.walk(tree):
        called = node.func.id if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) else ""
        if called in ("tr", "trn") and isinstance(node, ast.Call):
            arguments = [part.value for part in node.args if isinstance(part, ast.Constant)]
            if arguments:
                found.append((str(arguments[0]), str(arguments[1]) if called == "trn" else "", node.lineno))
            taken.update(part for part in node.args if isinstance(part, ast.Constant))
    for node in _listed(tree):
        if node not in taken and re.search("[A-Za-z]{3,}", node.value):
            found.append((node.value, "", node.lineno))
            taken.add(node)
    for node in ast.walk(tree):
        if not isinstance(node, ast.Constant) or not isinstance(node.value, str) or node in taken:
            continue
        if is_words(node.value) and not _is_for_the_machine(node, above):
            found.append((node.value, "", node.lineno))
    yield from sorted(found, key=lambda text: text[2])


def _listed(tree: ast.AST) -> Iterator[Any]:
    """What is shown though it may be a small word alone: entries of choices, names of starts and of groups."""
    for node in ast.walk(tree):
        match node:
            case ast.Call(func=ast.Name(id="choice"), args=[_, ast.Tuple(elts=pairs), *_]):
                for pair in pairs:
                    if isinstance(pair, ast.Tuple) and isinstance(pair.elts[-1], ast.Constant):
                        yield pair.elts[-1]
            case ast.Call(func=ast.Name(id="number"), args=[_, _, _, ast.Constant(value=str()) as unit, *_]):
                yield unit
            case ast.AnnAssign(target=ast.Name(id="starts"), value=ast.Dict(keys=keys)):
                yield from (key for key in keys if isinstance(key, ast.Constant))
            case ast.keyword(arg="group" | "text" | "label", value=ast.Constant(value=str()) as words):
                yield words


def is_words(text: str) -> bool:
    """Whether it looks as if people read it."""
    if not _WORDS.search(text) or re.search(r"[<>\\]|://|^[-./#*%]|\$|__|^\w+\.\w+$|^\w+=|^[a-z]+[-_/]", text):
        return False
    if " " in text.strip():
        return bool(re.search(r"[a-zÀ-ÿ]{2,}", text))
    return bool(re.match(r"^[ ,]*[A-Z][a-zà-ÿ-]+…?[:,.]? ?$", text)) or text in _ALONE


# Single small words that are shown: entries of lists, states, parts of sentences
_ALONE = frozenset((
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "difference", "exclusion", "hue",
    "saturation", "color", "luminosity", "glint", "everywhere", "sharpen", "none", "own", "equal", "upright",
    "across", "free", "even", "mids", "darks", "gaussian", "uniform", "clumped", "on", "off", "nothing", "any",
    "page", "pages", "file", "folder", "waiting", "working", "done", "failed", "skin", "hair", "clothes", "sky",
    "leaves", "water", "wall", "ground", "lips", "brows", "blush", "this", "print", "prints", "photograph",
    "photographs", "pass", "passes", "more", "fewer", "gray", "RGB", "CMYK", "lighter", "darker", "yes", "no",
    "before", "after", "edited", "another…", "not", "lying", "read", "proved", "glossy", "baryta", "cotton",
    "vellum", "office", "brushed twice", "hangs", "does not hang", "clips", "whole", "split", "picture",
    "sheet", "strip", "stencil", "frame", "plates", "negative", "process", "state", "recipe", "cluster",
))  # fmt: skip


def _is_for_the_machine(node: ast.Constant, above: dict[ast.AST, ast.AST]) -> bool:
    parent, child = above[node], node
    while isinstance(parent, ast.BoolOp | ast.IfExp | ast.Tuple | ast.Starred):
        parent, child = above[parent], parent  # type: ignore[assignment]
    match parent:
        case ast.Expr() | ast.Compare() | ast.Subscript() | ast.Assert() | ast.FormattedValue() | ast.JoinedStr():
            return True
        case ast.AnnAssign(annotation=annotation):
            return child is annotation
        case ast.Dict(keys=keys) if child in keys:
            words = str(node.value)
            return " " not in words and not words[0].isupper()
        case ast.Call(func=func) if child is not func:
            name = func.id if isinstance(func, ast.Name) else getattr(func, "attr", "")
            return name in _CALLS
        case ast.keyword(arg=name):
            return name in _KEYWORDS
        case _:
            return False


def merged(language: str, fresh: Catalog) -> Catalog:
    """What there is of a language, with the texts as they are now."""
    path = FOLDER / language / "LC_MESSAGES" / "kyanoscript.po"
    made = Catalog(locale=language, project="Kyanoscript", charset="utf-8")
    if path.exists():
        with path.open("rb") as file:
            made = read_po(file, locale=language)
    made.update(fresh, no_fuzzy_matching=True)
    made.obsolete.clear()
    made._num_plurals, made._plural_expr = _PLURALS[language]  # as gettext's manual has them
    for message in made:
        message.flags -= {"python-format", "python-brace-format"}
    return made


def compiled(catalogue: Catalog) -> bytes:
    """As the program reads it."""
    buffer = BytesIO()
    write_mo(buffer, catalogue)
    return buffer.getvalue()


def main() -> None:
    """Bring both languages up to date."""
    fresh = collected()
    for language in LANGUAGES:
        catalogue = merged(language, fresh)
        folder = FOLDER / language / "LC_MESSAGES"
        folder.mkdir(parents=True, exist_ok=True)
        with (folder / "kyanoscript.po").open("wb") as file:
            write_po(file, catalogue, width=0, omit_header=False, sort_by_file=True)
        (folder / "kyanoscript.mo").write_bytes(compiled(catalogue))
        left = [message.id for message in catalogue if message.id and not message.string]
        print(f"{language}: {len(catalogue)} texts, {len(left)} not translated")
        for text in left[:10] if "-v" in sys.argv else []:
            print("   ", text)


if __name__ == "__main__":
    main()
