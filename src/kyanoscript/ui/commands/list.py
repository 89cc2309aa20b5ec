"""What can be done, as data: from this one list come the menus, the shortcuts, the tool tips and the page of keys."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Action:
    """One thing that can be done. ``do`` names a method of the window; a hold has a second one for letting go."""

    menu: str
    text: str
    keys: str
    do: str
    help: str
    hold: str = ""  # method called when the key is let go
    wants: str = ""  # "photo", "pass": when it can be done
    rule: bool = False  # a rule above it in the menu
    at: str = ""  # the view in which it can be done; empty: in every view


ACTIONS: tuple[Action, ...] = (
    Action("File", "Open…", "Ctrl+O", "ask_open", "Open a photograph or a script file"),
    Action("File", "Save", "Ctrl+S", "save", "Save the script", wants="photo", rule=True),
    Action("File", "Save as…", "Ctrl+Shift+S", "save_as", "Save the script under another name", wants="photo"),
    Action("File", "Export…", "Ctrl+E", "ask_export", "Write the print as TIFF, PNG or JPEG", wants="photo"),
    Action("File", "Quit", "Ctrl+Q", "quit", "Leave; asks only if something would be lost", rule=True),
    Action("Edit", "Undo", "Ctrl+Z", "undo", "Take back the last thing done"),
    Action("Edit", "Redo", "Ctrl+Shift+Z", "redo", "Do it again"),
    Action(
        "Edit",
        "History…",
        "Ctrl+Alt+Z",
        "show_history",
        "Everything done, in words; press a line to go back to it",
        at="bench",
    ),
    Action(
        "Edit",
        "Choose all passes",
        "Ctrl+A",
        "choose_all",
        "Every pass of the run",
        wants="photo",
        rule=True,
        at="bench",
    ),
    Action("Edit", "Copy passes", "Ctrl+C", "copy_pass", "As JSON text on the clipboard", wants="pass", at="bench"),
    Action(
        "Edit",
        "Paste passes",
        "Ctrl+V",
        "paste_passes",
        "From the clipboard, after the chosen one",
        wants="photo",
        at="bench",
    ),
    Action("Pass", "Add a pass…", "A", "ask_add", "Put a pass after the chosen one", wants="photo", at="bench"),
    Action("Pass", "Double this pass", "D", "double", "Put the same pass once more after it", wants="pass", at="bench"),
    Action(
        "Pass",
        "Keep as a recipe…",
        "K",
        "keep_recipe",
        "The chosen passes, or the whole run",
        wants="photo",
        at="bench",
    ),
    Action(
        "Pass", "Name and note…", "F2", "rename", "Call the pass, or one's own recipe, by another name", wants="pass"
    ),
    Action(
        "Pass",
        "Remove",
        "Del",
        "remove",
        "Take the chosen pass out of the run, or delete one's own recipe",
        wants="pass",
    ),
    Action("Pass", "On or off", "X", "lamp", "The lamp of the chosen pass", wants="pass", rule=True, at="bench"),
    Action(
        "Pass",
        "Touch",
        "T",
        "touch",
        "Press on the picture and drag up or down: what lies there moves",
        wants="pass",
        at="bench",
    ),
    Action("Pass", "Stronger", "Up", "stronger", "Strength up by 1 %", wants="pass"),
    Action("Pass", "Weaker", "Down", "weaker", "Strength down by 1 %", wants="pass"),
    Action("Pass", "Much stronger", "Shift+Up", "much_stronger", "Strength up by 10 %", wants="pass"),
    Action("Pass", "Much weaker", "Shift+Down", "much_weaker", "Strength down by 10 %", wants="pass"),
    Action("Pass", "Strength to nothing", "0", "to_nothing", "Then let it creep up", wants="pass"),
    Action(
        "Pass",
        "Next blend mode",
        "N",
        "next_blend",
        "Step through the blend modes while watching",
        wants="pass",
        rule=True,
        at="bench",
    ),
    Action(
        "Pass",
        "Blend modes on this picture…",
        "Shift+B",
        "choose_blend",
        "Each of them small",
        wants="pass",
        at="bench",
    ),
    Action("Pass", "Blend mode before", "Shift+N", "blend_before", "And back", wants="pass", at="bench"),
    Action(
        "Pass",
        "Into a plate's run",
        "Return",
        "go_in",
        "And from there back to the plate; among the recipes: use it",
        wants="pass",
    ),
    Action("Pass", "Choose the tray before", "Left", "before", "Or the recipe before", wants="photo", rule=True),
    Action("Pass", "Choose the tray after", "Right", "after", "Or the recipe after", wants="photo"),
    Action("Pass", "Move the tray left", "Shift+Left", "move_left", "Earlier in the run", wants="pass", at="bench"),
    Action("Pass", "Move the tray right", "Shift+Right", "move_right", "Later in the run", wants="pass", at="bench"),
    Action(
        "Stencil",
        "Draw the stencil",
        "M",
        "draw_stencil",
        "Where the chosen pass acts; and done",
        wants="pass",
        at="bench",
    ),
    Action(
        "Stencil",
        "Show it otherwise",
        "Shift+M",
        "next_display",
        "Tint, black and white, or not",
        wants="pass",
        at="bench",
    ),
    Action(
        "Stencil",
        "Smaller brush",
        ",",
        "smaller_brush",
        "Of the stencil, or of dodge and burn",
        wants="pass",
        at="bench",
    ),
    Action(
        "Stencil", "Larger brush", ".", "larger_brush", "Of the stencil, or of dodge and burn", wants="pass", at="bench"
    ),
    Action(
        "Stencil",
        "Copy the stencil",
        "Ctrl+Shift+C",
        "copy_stencil",
        "For another pass",
        wants="pass",
        rule=True,
        at="bench",
    ),
    Action(
        "Stencil",
        "Paste the stencil",
        "Ctrl+Shift+V",
        "paste_stencil",
        "Onto the chosen pass",
        wants="pass",
        at="bench",
    ),
    Action("Look", "Bench", "Ctrl+1", "show_bench", "Work on one print"),
    Action("Look", "Recipes", "Ctrl+2", "show_recipes", "Every recipe on this picture", wants="photo"),
    Action("Look", "Compare", "C", "next_compare", "Whole, split, side by side", wants="photo", rule=True, at="bench"),
    Action(
        "Look",
        "Compare with another",
        "Shift+C",
        "compare_with",
        "The photo, or the print without this pass",
        wants="photo",
        at="bench",
    ),
    Action("Look", "Whole print", "F", "whole", "Fit the print on the easel", wants="photo", rule=True),
    Action("Look", "Actual pixels", "1", "actual", "One pixel of the photograph to one of the screen", wants="photo"),
    Action("Look", "Nearer", "Ctrl++", "nearer", "Zoom in", wants="photo"),
    Action("Look", "Farther", "Ctrl+-", "farther", "Zoom out", wants="photo"),
    Action(
        "Look",
        "Turn left",
        "[",
        "turn_left",
        "The picture a quarter turn to the left",
        wants="photo",
        rule=True,
        at="bench",
    ),
    Action(
        "Look", "Turn right", "]", "turn_right", "The picture a quarter turn to the right", wants="photo", at="bench"
    ),
    Action(
        "Look",
        "Guides of the frame",
        "G",
        "guides",
        "Thirds, diagonals, golden section, centre",
        wants="photo",
        at="bench",
    ),
    Action("Look", "Next mat", "B", "next_mat", "Mid gray, paper white, near black", rule=True),
    Action("Look", "Print at arm's length", "I", "inset", "The small whole print in the corner"),
    Action(
        "Look", "Marks over the print", "V", "marks", "Hide handles, stencil and guides, or show them again", at="bench"
    ),
    Action(
        "Look", "Only the print", "Tab", "only_print", "Hide everything else; works while the easel has the keyboard"
    ),
    Action("Look", "Safelight or daylight", "L", "safelight", "Dark chrome for a dark room, or the light one"),
    Action("Look", "Print on the whole screen", "F11", "full_screen", "The print alone, and back"),
    Action("Look", "Next part of the window", "F6", "next_part", "Move the keyboard: easel, slip, run, ladder"),
    Action("Hold", "The photo as opened", "O", "hold_photo", "While held", hold="let_go", wants="photo"),
    Action("Hold", "Without this pass", "P", "hold_without", "While held", hold="let_go", wants="pass", at="bench"),
    Action("Hold", "Develop", "H", "hold_develop", "The pass comes up from nothing", hold="let_develop", wants="pass"),
    Action("Hold", "Move the print", "Space", "hold_space", "Drag while held", hold="let_space", wants="photo"),
    Action("Help", "Keys and help", "F1", "show_keys", "Every key on one page"),
    Action("Help", "About…", "", "about", "Versions and licences, and where the log lies"),
)
