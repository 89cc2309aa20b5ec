"""The one past under desk, states, processes and recipes, against two plain lists."""

from hypothesis import given
from hypothesis import strategies as st

from kyanoscript.core.past import Past


@given(st.lists(st.sampled_from(["do", "back", "again", "before"]), max_size=40))
def test_what_is_taken_back_is_done_again_until_something_else_is_done(deeds):
    past, done, undone = Past(0, "Open"), [], []
    for k, deed in enumerate(deeds, 1):
        if deed == "do":
            past.do(f"deed {k}", k)
            done, undone = [*done, k], []
        elif deed == "back":
            found = past.take_back()
            assert (found.value if found else None) == (done[-1] if done else None)
            undone += done[-1:]
            done = done[:-1]
        elif deed == "again":
            found = past.do_again()
            assert (found.value if found else None) == (undone[-1] if undone else None)
            done += undone[-1:]
            undone = undone[:-1]
        elif not done:
            past.took_back(f"deed {k}", k)
            undone.append(k)
        assert past.present.value == (done[-1] if done else 0)
        assert list(past) == [0, *done, *reversed(undone)]
        words = [f"deed {rows[-1]}" if rows else "" for rows in (done, undone)]
        assert past.words == tuple(words)
