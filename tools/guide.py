"""Makes the guide that ships with the program: HTML from docs/guide, and its pictures from the demo data.

``make docs`` makes the pages, ``make guide`` the pictures too.
"""

from __future__ import annotations

import html
import re
import sys
from pathlib import Path

from markdown_it import MarkdownIt
from markdown_it.token import Token

from kyanoscript.ui.commands.list import COMMANDS

ROOT = Path(__file__).parents[1]
TEXTS = ROOT / "docs" / "guide"
SHIPPED = ROOT / "src" / "kyanoscript" / "guide"
WIDTH = 760  # of a picture on the page; it has more pixels, for screens that show them

# The pages in the order of the contents
PAGES = {
    "index": TEXTS / "index.md",
    **{
        name: TEXTS / f"{name}.md"
        for name in ("first-print", "gray", "toning", "scans", "states", "paper", "plates", "processes", "editions")
    },
    "passes": ROOT / "docs" / "passes.md",
    "keys": TEXTS / "keys.md",
    "glossary": TEXTS / "glossary.md",
}
_MENUS = ("File", "Edit", "Pass", "Tint", "Stencil", "Look", "Hold", "Help")


def keys() -> str:
    """The page of keys, from the list of commands."""
    lines = ["# Every key", "", "Made from the list of commands by `make docs`; do not edit by hand.", ""]
    for menu in _MENUS:
        lines += [f"## {menu}", "", "| key | | |", "|---|---|---|"]
        for command in COMMANDS:
            if command.menu == menu and command.keys:
                lines.append(f"| **{command.keys}** | {command.text.rstrip('…')} | {command.help} |")
        lines.append("")
    return "\n".join(lines)


def page(name: str, text: str) -> str:
    """A page as HTML, with the links of the program's own pages and a place for every heading and every value."""
    reader = MarkdownIt("commonmark").enable("table")
    tokens = reader.parse(text)
    title, kind, places = name, "", set()
    for at, token in enumerate(tokens):
        if token.type == "heading_open":
            words = tokens[at + 1]
            title = words.content if token.tag == "h1" else title
            kind = (re.findall(r"\(`([\w-]+)`\)", words.content) or [""])[0]
            names = [slug(words.content), *([kind] if kind else ["all"] if name == "passes" else [])]
            kind = kind or "all"
            places.update(names)
            token.meta["names"] = names
        if token.type == "td_open" and tokens[at - 1].type == "tr_open" and name == "passes":
            value = tokens[at + 1].content.strip("`")
            token.meta["names"] = [f"{kind}-{value}"]
        for child in token.children or ():
            _turned(child)
    body = reader.renderer.render(_with_places(tokens), reader.options, {})
    return (
        '<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8">'
        f"<title>{html.escape(title)}</title></head>\n<body>\n{body}</body></html>\n"
    )


def slug(words: str) -> str:
    """What a link to a heading says."""
    return re.sub(r"[^\w-]", "", words.lower().replace(" ", "-"))


def _turned(token: Token) -> None:
    """Links to pages and pictures as they lie in the program."""
    if token.type == "link_open":
        target, _, place = str(token.attrs["href"]).partition("#")
        if target.endswith(".md"):
            token.attrs["href"] = Path(target).stem + ".html" + (f"#{place}" if place else "")
    if token.type == "image":
        token.attrs["src"] = "pictures/" + Path(str(token.attrs["src"])).name
        token.attrs["width"] = str(WIDTH)
        token.attrs["alt"] = token.content


def _with_places(tokens: list[Token]) -> list[Token]:
    made: list[Token] = []
    for token in tokens:
        made.append(token)
        if names := token.meta.pop("names", ()):
            made.append(Token("html_inline", "", 0, content="".join(f'<a name="{name}"></a>' for name in names)))
    return made


def files() -> dict[Path, str]:
    """What is written, and where."""
    texts = {name: keys() if name == "keys" else file.read_text() for name, file in PAGES.items()}
    return {
        PAGES["keys"]: texts["keys"],
        **{SHIPPED / f"{name}.html": page(name, text) for name, text in texts.items()},
    }


def main() -> None:
    """The pages; with ``pictures`` those too."""
    SHIPPED.mkdir(exist_ok=True)
    for path, text in files().items():
        path.write_text(text)
        print(path.relative_to(ROOT))
    if "pictures" in sys.argv[1:]:
        from guide_pictures import draw_all

        draw_all(SHIPPED / "pictures")


if __name__ == "__main__":
    main()
