"""Words in the language of the person at the machine.

All words are written in English where they are used, and looked up where they are said (gettext; the catalogues lie
in ``languages``, kept by translators and brought up to date by `tools/languages.py`). What is put together from parts
goes through `tr` and `trn`; a whole sentence or name may be looked up as late as on the screen (`spoken`), so that
until then the program itself can go by it. What a person has typed is in no catalogue and stays as it is.

The language is that of the surroundings (LANGUAGE, LC_ALL, LC_MESSAGES, LANG), once for the whole run.
"""

from __future__ import annotations

import functools
import gettext
import os
import re
import string
from pathlib import Path
from typing import Any

FOLDER = Path(__file__).parent / "languages"
DOMAIN = "kyanoscript"
_NOUNS_ARE_LARGE = ("de",)  # languages in which a name keeps its capital within a sentence
_COMMAS = ("de", "fr")  # and those that write 1,5
_ASKED = ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG")  # where the surroundings name theirs, the strongest first


@functools.cache
def _catalogue() -> gettext.NullTranslations | None:
    """What is known of the person's language; None: it is English, or one that is not there."""
    names = gettext.find(DOMAIN, str(FOLDER), all=True)
    wanted = next((os.environ[name] for name in _ASKED if os.environ.get(name)), "")
    if not names or wanted.split(":")[0].split(".")[0].split("_")[0] in ("", "C", "POSIX", "en"):
        return None
    with open(names[0], "rb") as file:
        return gettext.GNUTranslations(file)


@functools.cache
def language() -> str:
    """The language that is spoken: en, de or fr."""
    found = _catalogue()
    return found.info().get("language", "en") if found is not None else "en"


def speak_english() -> None:
    """From now on, whatever the surroundings: what machines read is in one language."""
    os.environ["LANGUAGE"] = "en"
    forget()


def forget() -> None:
    """The surroundings have changed: look again."""
    _catalogue.cache_clear()
    language.cache_clear()
    spoken.cache_clear()
    _writer.cache_clear()


@functools.lru_cache(8192)
def spoken(text: str) -> str:
    """A whole sentence, name or word; of one that is put together by colons and the like, its pieces; else as it is."""
    catalogue = _catalogue()
    if catalogue is None or not text:
        return text
    return _by_pieces(catalogue, text, 0)


# Between pieces that may be known alone: the strongest first
_JOINTS = tuple(
    re.compile(f"({joint})")
    for joint in ("\n", r"\.$", r"\t|  ·  | · |  \(| \((?=[\d−–])", r"\. ", ": ", "; ", ", ", "  ")
)


def _by_pieces(catalogue: gettext.NullTranslations, text: str, level: int) -> str:
    found = _looked_up(catalogue, text)
    if found != text:
        return found
    for k in range(level, len(_JOINTS)):
        pieces = _JOINTS[k].split(text)
        if len(pieces) > 1:
            told = [_by_pieces(catalogue, piece, k + 1) if i % 2 == 0 else piece for i, piece in enumerate(pieces)]
            return "".join(told)
    return text


def _looked_up(catalogue: gettext.NullTranslations, text: str) -> str:
    if not text:  # what stands there says what the catalogue is
        return text
    found = catalogue.gettext(text)
    if found != text or not text[0].isalpha():
        return found
    # a name within a sentence, or a sentence that begins with one: “grain” of “Grain”, and the other way round
    other = text[0].swapcase() + text[1:]
    found = catalogue.gettext(other)
    if found == other:
        return text
    if text[0].isupper():
        return found[0].upper() + found[1:]
    return found if language() in _NOUNS_ARE_LARGE else found[0].lower() + found[1:]


def tr(text: str, /, **parts: Any) -> str:
    """A sentence with its parts, which stand in braces in it; parts that are words are looked up themselves."""
    catalogue = _catalogue()
    if catalogue is None:
        return text.format(**parts) if parts else text
    return _with_parts(catalogue.gettext(text), parts)


def trn(one: str, many: str, count: float, /, **parts: Any) -> str:
    """A sentence for one of something, or for several; ``count`` decides, by the rule of the language."""
    catalogue = _catalogue()
    if catalogue is None:
        return (one if count == 1 else many).format(**parts)
    return _with_parts(catalogue.ngettext(one, many, int(count) if count == int(count) else 2), parts)


def decimal(text: str) -> str:
    """A number as it is written: with a comma, where that is usual."""
    return text.replace(".", ",") if language() in _COMMAS else text


class _Writer(string.Formatter):
    """Puts parts into a sentence: words are looked up, numbers have their comma."""

    def format_field(self, value: Any, format_spec: str) -> Any:
        if isinstance(value, str):
            value = spoken(value)
        written = super().format_field(value, format_spec)
        return decimal(written) if isinstance(value, float) else written


@functools.cache
def _writer() -> _Writer:
    return _Writer()


def _with_parts(text: str, parts: dict[str, Any]) -> str:
    return _writer().vformat(text, (), parts) if parts else text
