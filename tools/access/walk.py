"""Goes through the window by the library that screen readers use: every control named, values read and set.

Run by ``tools/access/try.sh``, with the system's Python, which has that library.
"""

import sys
import time
from collections import Counter

import pyatspi

VIEWS = ("Bench", "Recipes", "States", "Strip", "Sheet", "Edition")
DEEPEST, MOST = 40, 300


def walk(thing, depth=0):
    """A thing and all within it."""
    if thing is None or depth > DEEPEST:
        return
    yield thing
    for k in range(min(thing.childCount, MOST)):
        yield from walk(thing.getChildAtIndex(k), depth + 1)


def there(name, role, within, seconds=60):
    """A thing of that name and role, as soon as it is there."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        for thing in walk(within):
            if thing.name == name and thing.getRoleName() == role:
                return thing
        time.sleep(0.5)
    sys.exit(f"there is no {role} {name!r}")


def program(seconds=60):
    """The program, as soon as it is on the bus."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        for found in pyatspi.Registry.getDesktop(0):
            if found is not None and found.name == "Kyanoscript" and found.childCount:
                return found
        time.sleep(0.5)
    sys.exit("the program is not on the bus")


def main():
    """Every view."""
    app = program()
    slider = there("Red", "slider", app)
    time.sleep(3)
    value = slider.queryValue()
    before = value.currentValue
    value.currentValue = before + 10
    time.sleep(1)
    wrong = [] if value.currentValue == before + 10 else [f"Red stays at {value.currentValue}"]
    for view in VIEWS:
        word = there(view, "check box", app)
        action = word.queryAction()
        print([action.getName(k) for k in range(action.nActions)], action.doAction(0))
        time.sleep(4)
        app.clear_cache()
        roles = Counter()
        for thing in walk(app):
            state = thing.getState()
            if not state.contains(pyatspi.STATE_SHOWING):
                continue
            role = thing.getRoleName()
            roles[role] += 1
            reachable = state.contains(pyatspi.STATE_FOCUSABLE) and role not in (
                "filler",
                "panel",
                "scroll pane",
                "frame",
            )
            if reachable and not thing.name:
                wrong.append(f"{view}: a {role} has no name")
            if role in ("slider", "dial"):
                value = thing.queryValue()
                if not value.minimumValue <= value.currentValue <= value.maximumValue:
                    wrong.append(f"{view}: {thing.name} is {value.currentValue}")
        print(view, dict(roles.most_common(6)))
    print(*wrong, sep="\n")
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
