"""What can be done, as data: from this one list come the menus, the shortcuts, the tool tips and the page of keys.

Who does it is said by the views and controllers that hand their commands to the `registry`.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, eq=False)
class Command:
    """One thing that can be done."""

    menu: str
    text: str
    keys: str
    help: str
    wants: str = ""  # "photo", or "chosen": a pass or whatever the view has to choose: when it can be done
    rule: bool = False  # a rule above it in the menu
    held: bool = False  # its key is held, and then let go
    everywhere: bool = True  # its key works wherever the keyboard is; otherwise on the easel, the run and their like


OPEN = Command("File", "Open…", "Ctrl+O", "Open a photograph or a script file")
SAVE = Command("File", "Save", "Ctrl+S", "Save the script", wants="photo", rule=True)
SAVE_AS = Command("File", "Save as…", "Ctrl+Shift+S", "Save the script under another name", wants="photo")
EXPORT = Command("File", "Export…", "Ctrl+E", "Write the print into a file: TIFF, PNG, JPEG and others", wants="photo")
PRINT = Command("File", "Print the sheet…", "Ctrl+P", "On paper: in the Sheet view", wants="photo")
QUIT = Command("File", "Quit", "Ctrl+Q", "Leave; asks only if something would be lost", rule=True)
UNDO = Command("Edit", "Undo", "Ctrl+Z", "Take back the last thing done")
REDO = Command("Edit", "Redo", "Ctrl+Shift+Z", "Do it again")
HISTORY = Command("Edit", "History…", "Ctrl+Alt+Z", "Everything done, in words; press a line to go back to it")
CHOOSE_ALL = Command("Edit", "Choose all passes", "Ctrl+A", "Every pass of the run", wants="photo", rule=True)
COPY = Command("Edit", "Copy passes", "Ctrl+C", "As JSON text on the clipboard", wants="chosen")
COPY_PRINT = Command(
    "Edit", "Copy the print", "Ctrl+Alt+C", "As a picture, for another program; at most 4096 pixels", wants="photo"
)
PASTE = Command("Edit", "Paste passes", "Ctrl+V", "From the clipboard, after the chosen one", wants="photo")
ADD = Command("Pass", "Add a pass…", "A", "Put a pass after the chosen one", wants="photo")
DOUBLE = Command("Pass", "Double this pass", "D", "Put the same pass once more after it", wants="chosen")
KEEP_STATE = Command(
    "Edit", "Keep this state", "S", "The print as it is on the bench, as a state", wants="photo", rule=True
)
KEEP_EXCEPTION = Command(
    "Edit",
    "Keep for this picture only",
    "Shift+S",
    "As an exception of the edition: see the Edition view",
    wants="photo",
)
JUDGE = Command("Look", "Judge blind", "J", "States in pairs without names, in places by chance", wants="photo")
STRIP = Command(
    "Pass", "Test strip of a value", "W", "Of the value that has the keyboard, in steps across the print", wants="photo"
)
KEEP_RECIPE = Command("Pass", "Keep as a recipe…", "K", "The chosen passes, or the whole run", wants="photo")
RENAME = Command("Pass", "Name and note…", "F2", "Call the pass, or one's own recipe, by another name", wants="chosen")
REMOVE = Command(
    "Pass", "Remove", "Del", "Take the chosen pass out of the run, or delete one's own recipe", wants="chosen"
)
LAMP = Command("Pass", "On or off", "X", "The lamp of the chosen pass", wants="chosen", rule=True)
TOUCH = Command("Pass", "Touch", "T", "Press on the picture and drag up or down: what lies there moves", wants="chosen")
STRONGER = Command("Pass", "Stronger", "Up", "Strength up by 1 %", wants="chosen")
WEAKER = Command("Pass", "Weaker", "Down", "Strength down by 1 %", wants="chosen")
MUCH_STRONGER = Command("Pass", "Much stronger", "Shift+Up", "Strength up by 10 %", wants="chosen")
MUCH_WEAKER = Command("Pass", "Much weaker", "Shift+Down", "Strength down by 10 %", wants="chosen")
TO_NOTHING = Command("Pass", "Strength to nothing", "0", "Then let it creep up", wants="chosen")
NEXT_BLEND = Command(
    "Pass", "Next blend mode", "N", "Step through the blend modes while watching", wants="chosen", rule=True
)
CHOOSE_BLEND = Command("Pass", "Blend modes on this picture…", "Shift+B", "Each of them small", wants="chosen")
CHOOSE_START = Command("Pass", "Starts on this picture…", "Shift+P", "Each of them small", wants="chosen")
BLEND_BEFORE = Command("Pass", "Blend mode before", "Shift+N", "And back", wants="chosen")
GO_IN = Command(
    "Pass",
    "Into a plate's run",
    "Return",
    "And from there back to the plate; among the recipes: use it; on the wall: hang or take down",
    wants="chosen",
    everywhere=False,
)
BEFORE = Command(
    "Pass", "Choose the tray before", "Left", "Or the recipe, or the state, before", wants="photo", rule=True
)
AFTER = Command("Pass", "Choose the tray after", "Right", "Or the recipe, or the state, after", wants="photo")
MOVE_LEFT = Command("Pass", "Move the tray left", "Shift+Left", "Earlier in the run", wants="chosen")
MOVE_RIGHT = Command("Pass", "Move the tray right", "Shift+Right", "Later in the run", wants="chosen")
NEXT_WAITING = Command("Tint", "Next that waits for a tint", "U", "Of a gray scene that is coloured", wants="chosen")
WAITING_BEFORE = Command("Tint", "The one before that waits", "Shift+U", "And back", wants="chosen")
TAKE_TINT = tuple(
    Command(
        "Tint",
        f"Take tint {k}",
        f"Alt+{k}",
        "Of the six that a part is offered, likeliest first",
        wants="chosen",
    )
    for k in range(1, 7)
)
DRAW_STENCIL = Command("Stencil", "Draw the stencil", "M", "Where the chosen pass acts; and done", wants="chosen")
NEXT_DISPLAY = Command("Stencil", "Show it otherwise", "Shift+M", "Tint, black and white, or not", wants="chosen")
SMALLER_BRUSH = Command("Stencil", "Smaller brush", ",", "Of the stencil, or of dodge and burn", wants="chosen")
LARGER_BRUSH = Command("Stencil", "Larger brush", ".", "Of the stencil, or of dodge and burn", wants="chosen")
COPY_STENCIL = Command("Stencil", "Copy the stencil", "Ctrl+Shift+C", "For another pass", wants="chosen", rule=True)
PASTE_STENCIL = Command("Stencil", "Paste the stencil", "Ctrl+Shift+V", "Onto the chosen pass", wants="chosen")
NEXT_COMPARE = Command("Look", "Compare", "C", "Whole, split, side by side", wants="photo", rule=True)
COMPARE_WITH = Command(
    "Look", "Compare with another", "Shift+C", "The photo, the print without this pass, or a state", wants="photo"
)
WHOLE = Command("Look", "Whole print", "F", "Fit the print on the easel", wants="photo", rule=True)
ACTUAL = Command("Look", "Actual pixels", "1", "One pixel of the photograph to one of the screen", wants="photo")
NEARER = Command("Look", "Nearer", "Ctrl++", "Zoom in", wants="photo")
FARTHER = Command("Look", "Farther", "Ctrl+-", "Zoom out", wants="photo")
TURN_LEFT = Command("Look", "Turn left", "[", "The picture a quarter turn to the left", wants="photo", rule=True)
TURN_RIGHT = Command("Look", "Turn right", "]", "The picture a quarter turn to the right", wants="photo")
GUIDES = Command("Look", "Guides of the frame", "G", "Thirds, diagonals, golden section, centre", wants="photo")
NEXT_MAT = Command("Look", "Next mat", "B", "Mid gray, paper white, near black", rule=True)
INSET = Command("Look", "Print at arm's length", "I", "The small whole print in the corner")
MARKS = Command("Look", "Marks over the print", "V", "Hide handles, stencil and guides, or show them again")
ONLY_PRINT = Command(
    "Look", "Only the print", "Tab", "Hide everything else; works while the easel has the keyboard", everywhere=False
)
GAMUT = Command("Look", "Out of gamut", "Shift+R", "Marks what the printer has not, in the Sheet view", wants="photo")
SAFELIGHT = Command("Look", "Safelight or daylight", "L", "Dark chrome for a dark room, or the light one")
MONITOR = Command("Look", "Monitor…", "", "The profile that everything is shown through")
MEMORY = Command("Look", "Memory…", "", "How much of what has been worked out is kept")
FULL_SCREEN = Command("Look", "Print on the whole screen", "F11", "The print alone, and back")
NEXT_PART = Command("Look", "Next part of the window", "F6", "Move the keyboard: easel, slip, run, ladder")
HOLD_PHOTO = Command("Hold", "The photo as opened", "O", "While held", wants="photo", held=True)
HOLD_WITHOUT = Command("Hold", "Without this pass", "P", "While held", wants="chosen", held=True)
HOLD_OTHER = Command(
    "Hold", "The other state in its place", "E", "While held; here the one it was made from", wants="photo", held=True
)
HOLD_DEVELOP = Command("Hold", "Develop", "H", "The pass comes up from nothing", wants="chosen", held=True)
HOLD_PROOF = Command(
    "Hold", "As paper has it", "R", "While held: the sheet's proof on the easel", wants="photo", held=True
)
HOLD_SPACE = Command("Hold", "Move the print", "Space", "Drag while held", wants="photo", held=True)
GUIDE = Command("Help", "Guide", "F1", "At the place of the control that keyboard or pointer is on")
KEYS = Command("Help", "Keys", "Shift+F1", "Every key on one page")
WALKS = tuple(
    Command(
        "Help",
        f"Walk: {title}",
        "",
        "Five steps on a demo photograph, told where they happen",
        rule=first,
    )
    for title, first in (("a toned print", True), ("an old scan", False), ("a print on paper", False))
)
REPORT = Command(
    "Help", "What to send…", "", "When something goes wrong: versions, log and script in one file", rule=True
)
ABOUT = Command("Help", "About…", "", "Versions and licences, and where the log lies")

COMMANDS: tuple[Command, ...] = (
    OPEN,
    SAVE,
    SAVE_AS,
    EXPORT,
    PRINT,
    QUIT,
    UNDO,
    REDO,
    HISTORY,
    CHOOSE_ALL,
    COPY,
    PASTE,
    COPY_PRINT,
    KEEP_STATE,
    KEEP_EXCEPTION,
    ADD,
    DOUBLE,
    STRIP,
    KEEP_RECIPE,
    RENAME,
    REMOVE,
    LAMP,
    TOUCH,
    STRONGER,
    WEAKER,
    MUCH_STRONGER,
    MUCH_WEAKER,
    TO_NOTHING,
    NEXT_BLEND,
    CHOOSE_BLEND,
    CHOOSE_START,
    BLEND_BEFORE,
    GO_IN,
    BEFORE,
    AFTER,
    MOVE_LEFT,
    MOVE_RIGHT,
    NEXT_WAITING,
    WAITING_BEFORE,
    *TAKE_TINT,
    DRAW_STENCIL,
    NEXT_DISPLAY,
    SMALLER_BRUSH,
    LARGER_BRUSH,
    COPY_STENCIL,
    PASTE_STENCIL,
    NEXT_COMPARE,
    COMPARE_WITH,
    JUDGE,
    WHOLE,
    ACTUAL,
    NEARER,
    FARTHER,
    TURN_LEFT,
    TURN_RIGHT,
    GUIDES,
    NEXT_MAT,
    INSET,
    MARKS,
    ONLY_PRINT,
    GAMUT,
    SAFELIGHT,
    MONITOR,
    MEMORY,
    FULL_SCREEN,
    NEXT_PART,
    HOLD_PHOTO,
    HOLD_WITHOUT,
    HOLD_OTHER,
    HOLD_DEVELOP,
    HOLD_PROOF,
    HOLD_SPACE,
    GUIDE,
    KEYS,
    *WALKS,
    REPORT,
    ABOUT,
)
