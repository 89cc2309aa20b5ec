"""Words of the trade find things: passes, their starts and recipes, the nearest first."""

import pytest

from kyanoscript.core import finding
from kyanoscript.core.passes import load_all
from kyanoscript.files.kept.recipes import bundled

P = load_all()
RECIPES = {recipe.word: recipe for recipe in bundled()}
THINGS = [*finding.passes_and_starts(), *(finding.recipe(r.word, r.name, r.about, r.group) for r in RECIPES.values())]
ADDRESSES = {thing.address for thing in THINGS}


def found(words):
    return [thing.address for thing in finding.found(words, THINGS)]


@pytest.mark.parametrize(
    ("asked", "wanted"),
    [
        ("lith", {"recipe lith-warm", "colour-balance: lith", "grain: lith, in clumps"}),
        ("duotone", {"recipe duo-warm", "inks: two inks: black and warm gray"}),
        ("sepia", {"recipe sepia-bath", "toner-bath: sepia to the end", "gradient-map: sepia"}),
        ("cyanotype", {"recipe cyanotype", "toner-bath: iron blue"}),
        ("night vision", {"recipe night", "gradient-map: night green"}),
        ("gold", {"recipe metal-gold", "gradient-map: gold leaf"}),
        ("colourise", {"hand-tint: first colouring", "recipe old-portrait"}),
        ("blur", {"soften", "motion"}),
        ("film", {"grain: fine film", "grain: colour film"}),
        ("old photo", {"recipe old-portrait", "mend"}),
        ("hdr", {"local-exposure: everything shown"}),
        ("red filter", {"gray-weights: red glass"}),
        ("solarise", {"negative: lights turned dark, as if solarised"}),
        ("bromoil", {"recipe bromoil"}),
    ],
)
def test_what_people_type_finds_what_they_mean_among_the_first(asked, wanted):
    assert wanted <= set(found(asked)[:8])


def test_there_are_words_enough_and_all_they_name_is_there():
    trade = finding.trade()
    assert len(trade) >= 150
    for word, addresses in trade.items():
        assert addresses, word
        assert set(addresses) <= ADDRESSES, (word, set(addresses) - ADDRESSES)
        assert len(set(addresses)) == len(addresses), word


@pytest.mark.parametrize("word", finding.trade())
def test_every_word_of_the_trade_finds_what_it_names_first(word):
    """In small letters and large, with and without accents; what it names first is among the first three."""
    for asked in (word, word.upper()):
        assert finding.trade()[word][0] in found(asked)[:4]


def test_the_name_itself_comes_first():
    for kind, model in P.items():
        assert found(model.label)[0] == kind
    for word, recipe in RECIPES.items():
        same = [thing.address for thing in THINGS if thing.name.lower() == recipe.name.lower()]
        assert found(recipe.name)[0] in same, word


def test_what_is_typed_in_part_finds_it_already():
    assert "recipe cyanotype" in found("cyan")[:4]
    assert "grain" in found("grai")[:3]
    assert found("zzzz") == []
    assert found("  ") == []


def test_of_several_words_all_are_found_in_what_a_pass_is_for():
    assert "dodge-burn" in found("lead eye")
    assert "dodge-burn" not in found("lead eye zebra")


def test_accents_are_no_hindrance():
    assert found("giclee") == found("giclée")
    assert found("giclee")[0] == "recipe carbon-inkjet"


def test_an_unknown_language_has_no_words_and_names_are_found():
    assert finding.trade("xx") == {}
    assert next(t.address for t in finding.found("levels", THINGS, "xx")) == "levels"


@pytest.mark.parametrize("model", P.values(), ids=lambda model: model.kind)
def test_every_pass_has_starts_and_says_when_and_what_goes_wrong(model):
    assert 3 <= len(model.starts) <= (8 if model.kind != "gray-weights" else 22)
    made = [model(**values) for values in model.starts.values()]
    assert all(a != b for k, a in enumerate(made) for b in made[:k])
    for text in (model.use, model.beware):
        assert 15 < len(text) < 110
        assert not text.endswith(".")
    for start in model.starts:
        assert finding.pass_of(f"{model.kind}: {start}") == model(**model.starts[start])
        assert "of" not in model.starts[start]  # a start changes no form
    assert finding.pass_of(f"{model.kind}: no such start") is None
    assert finding.pass_of("recipe night") is None
