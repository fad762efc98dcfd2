"""Everything one can do, as data: menus, shortcuts and the list of keys are made from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.report.units import LENGTHS, PRESSURES, SPEEDS
from jete.session import operations as ops

if TYPE_CHECKING:
    from collections.abc import Callable

    from jete.session.state import Session

PLACE_STEP_M = 2.0
PLACE_LEAP_M = 20.0


def has_comparison(session: Session) -> bool:
    """Whether there is an axis to move on."""
    return session.lay.length_m > 0.0


def on_walk(session: Session) -> bool:
    """Whether a lap can be walked: keys such as Space and Down belong to buttons and lists on other pages."""
    return has_comparison(session) and session.look.page == "walk"


def on_guide(session: Session) -> bool:
    """Whether the guide is shown."""
    return has_comparison(session) and session.look.page == "guide"


def always(_: Session) -> bool:
    """Enabled at any time."""
    return True


@dataclass(frozen=True)
class Action:
    """One action.

    ``look`` is a pure operation on the session; without it the window handles the id.
    ``checked`` says whether it is what is chosen at present, for those of which one is.
    """

    id: str
    text: str
    keys: tuple[str, ...]
    menu: str
    enabled: Callable[[Session], bool] = always
    look: Callable[[Session], Session] | None = None
    checked: Callable[[Session], bool] | None = None


_MEASURED = {"speed": "speeds", "length": "distances", "pressure": "brake pressures"}


def _unit(kind: str, unit: str) -> Action:
    name = "% of the hardest press" if unit == "%" else unit
    return Action(
        f"{kind}:{unit}", f"Show {_MEASURED[kind]} in {name}", (), "Units", look=lambda s: ops.display(s, **{kind: unit}),
        checked=lambda s: getattr(s.display, kind) == unit,
    )  # fmt: skip


def _theme(session: Session) -> Session:
    return ops.display(session, theme="dark" if session.display.theme == "light" else "light")


ACTIONS: tuple[Action, ...] = (
    Action("open", "Open logs…", ("Ctrl+O",), "File"),
    Action("folder", "Open a folder of logs…", ("Ctrl+Shift+O",), "File"),
    Action("watch", "Watch a folder…", (), "File"),
    Action("export", "Write this lap as a file…", ("Ctrl+E",), "File"),
    Action("export:pair", "Write the comparison as a file…", ("Ctrl+Shift+E",), "File", has_comparison),
    Action("guide:write", "Write the lap guide as a file…", (), "File", has_comparison),
    Action("guide:bag", "Write the page for the helmet bag…", (), "File", has_comparison),
    Action("parcel:out", "Hand this lap on, with circuit and guide…", ("Ctrl+Shift+H",), "File"),
    Action("parcel:in", "Take in what was handed on…", (), "File"),
    Action("demo", "Open the demo", ("Ctrl+D",), "File"),
    Action("home", "Back to your own shelf", ("Ctrl+H",), "File"),
    Action("shelf", "Open another shelf…", (), "File"),
    Action("server", "A shelf on a server…", (), "File"),
    Action("backup", "Back up the shelf…", ("Ctrl+B",), "File"),
    Action("restore", "Restore the shelf from a backup…", (), "File"),
    Action("bin", "The bin…", (), "File"),
    Action("cancel", "Stop reading", ("Esc",), "File"),
    Action("quit", "Quit", ("Ctrl+Q",), "File"),
    Action("undo", "Undo", ("Ctrl+Z",), "Choose"),
    Action("redo", "Redo", ("Ctrl+Shift+Z",), "Choose"),
    Action("reference", "Use this lap as reference", ("R",), "Choose"),
    Action("compare", "Compare this lap", ("L",), "Choose"),
    Action("ideal", "Use the run's ideal lap as reference", ("I",), "Choose"),
    Action("over", "Lay this lap over the traces", ("V",), "Choose"),
    Action("pin", "Pin as the reference for this class", ("Ctrl+R",), "Choose"),
    Action("star", "Star this lap", ("S",), "Note"),
    Action("note", "Note on this lap", ("M",), "Note"),
    Action("aside", "This lap does not count, or counts again…", ("X",), "Note"),
    Action("corner:note", "Note on this corner…", ("Shift+G",), "Note", has_comparison),
    Action("tag", "Tag and note on this lap in this corner…", ("G",), "Note", has_comparison),
    Action("line", "The start line of this run…", ("Ctrl+L",), "Note"),
    Action("remove", "Put this run into the bin", ("Ctrl+Del",), "Note"),
    Action("search", "Search the shelf", ("Ctrl+F",), "Go"),
    Action("page:laps", "Page Laps", ("Ctrl+1",), "Go", look=lambda s: ops.go_to_page(s, "laps")),
    Action("page:ledger", "Page Ledger", ("Ctrl+2",), "Go", look=lambda s: ops.go_to_page(s, "ledger")),
    Action("page:corner", "Page Corner", ("Ctrl+3",), "Go", look=lambda s: ops.go_to_page(s, "corner")),
    Action("page:walk", "Page Walk", ("Ctrl+4",), "Go", look=lambda s: ops.go_to_page(s, "walk")),
    Action("page:guide", "Page Guide", ("Ctrl+5",), "Go", look=lambda s: ops.go_to_page(s, "guide")),
    Action("corner:next", "Corner after", ("N", "PgDown"), "Go", has_comparison, lambda s: ops.step_corner(s, 1)),
    Action("corner:before", "Corner before", ("B", "PgUp"), "Go", has_comparison, lambda s: ops.step_corner(s, -1)),
    Action("origin", "To the corner where this loss began", ("H",), "Go", has_comparison),
    Action("place:on", "Place a little further", ("Right",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m + PLACE_STEP_M)),
    Action("place:back", "Place a little back", ("Left",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m - PLACE_STEP_M)),
    Action("place:far-on", "Place further by 20 m", ("Shift+Right",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m + PLACE_LEAP_M)),
    Action("place:far-back", "Place back by 20 m", ("Shift+Left",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m - PLACE_LEAP_M)),
    Action("range:whole", "The whole lap", ("W",), "Show", has_comparison, ops.show_whole),
    Action("range:in", "Closer", ("+",), "Show", has_comparison, lambda s: ops.zoom(s, s.look.place_m, 0.7)),
    Action("range:out", "Wider", ("-",), "Show", has_comparison, lambda s: ops.zoom(s, s.look.place_m, 1.0 / 0.7)),
    Action("order", "Ledger in track order, or most to gain first", ("O",), "Show", look=lambda s: ops.display(s, by_loss=not s.display.by_loss)),
    Action("phase", "Ledger by cause, or by phase", ("F",), "Show", look=lambda s: ops.display(s, by_phase=not s.display.by_phase)),
    Action("scope", "Ledger of this lap, or of the run", ("A",), "Show", look=lambda s: ops.display(s, whole_run=not s.display.whole_run)),
    Action("beside", "Beside the corner: shapes, all passes or two ways", ("D",), "Show", look=ops.next_beside),
    Action("count", "Metres of the corner from its apex, or from the landmark one brakes by", ("Shift+D",), "Show", look=lambda s: ops.display(s, from_apex=not s.display.from_apex)),
    Action("seat", "Places from landmarks, or in metres only", ("E",), "Show", look=lambda s: ops.display(s, by_landmark=not s.display.by_landmark), checked=lambda s: s.display.by_landmark),
    Action("panels", "Panels of the traces…", ("P",), "Show"),
    Action("theme", "Light paper, or dark sheet", ("T",), "Show", look=_theme),
    Action("walk:play", "Play, or stop", ("Space",), "Walk", on_walk),
    Action("walk:rate", "Full, half or quarter speed", (".",), "Walk", on_walk),
    Action("walk:back", "Three seconds back", ("Backspace",), "Walk", on_walk),
    Action("walk:next", "To the next mark of either lap", ("Down",), "Walk", on_walk),
    Action("walk:before", "To the mark before", ("Up",), "Walk", on_walk),
    Action("walk:loop", "The whole lap, or this corner over and over", ("C",), "Walk", on_walk),
    Action("walk:who", "Play the lap, or the reference", ("Y",), "Walk", on_walk),
    Action("walk:together", "The other lap at the same time, or at the same place", ("U",), "Walk", on_walk),
    Action("walk:eye", "From the seat, from behind, or the reference's film", ("J",), "Walk", on_walk),
    Action("walk:left", "From above, or the lap's film", ("Ctrl+J",), "Walk", on_walk),
    Action("walk:line", "The reference's line on the road", ("Shift+J",), "Walk", on_walk),
    Action("walk:view", "The eye: height, angle of view, how far ahead…", (), "Walk", on_walk),
    Action("film:add", "A film of this run…", ("Alt+O",), "Walk", on_walk),
    Action("film:tie", "The film shows this place", ("Alt+T",), "Walk", on_walk),
    Action("film:find", "Find by motion where the film belongs", ("Alt+M",), "Walk", on_walk),
    Action("film:alone", "Move the film alone, or with the data", ("Alt+A",), "Walk", on_walk),
    Action("film:later", "The film a frame later (a tied one against the data)", ("Alt+Right",), "Walk", on_walk),
    Action("film:earlier", "The film a frame earlier", ("Alt+Left",), "Walk", on_walk),
    Action("film:on", "The film a second on", ("Alt+Shift+Right",), "Walk", on_walk),
    Action("film:back", "The film a second back", ("Alt+Shift+Left",), "Walk", on_walk),
    Action("film:loose", "Untie the film", (), "Walk", on_walk),
    Action("film:off", "Take the film off this run", (), "Walk", on_walk),
    Action("rehearse", "Rehearse: the lap without marks", ("Q",), "Walk", on_walk),
    Action("call:brake", "Call the brake point", ("1",), "Walk", on_walk),
    Action("call:light", "Call the brake point, pressed lightly", ("4",), "Walk", on_walk),
    Action("call:firm", "Call the brake point, pressed firmly", ("5",), "Walk", on_walk),
    Action("call:hard", "Call the brake point, pressed hard", ("6",), "Walk", on_walk),
    Action("call:turn_in", "Call the turn-in", ("2",), "Walk", on_walk),
    Action("call:slow_point", "Call the slowest point, where no pedals were logged", ("7",), "Walk", on_walk),
    Action("rehearse:blind", "Rehearse without the picture: place names only", ("Shift+Q",), "Walk", on_walk),
    Action("rehearse:say", "Say the lap: gear, landmark and kind of each corner…", (), "Walk", on_walk),
    Action("rehearse:aloud", "Say each call's error aloud, or not", (), "Walk", on_walk),
    Action("call:pick_up", "Call the pick-up", ("3",), "Walk", on_walk),
    Action("guide:versions", "Versions of the guide…", ("Ctrl+Shift+G",), "Show", on_guide),
    Action("guide:prints", "The guide as it prints, or its corners", ("Ctrl+P",), "Show", on_guide),
    Action("guide:middle", "The guide from this lap, or from the middle of the best", ("Ctrl+M",), "Show", on_guide),
    Action("landmark", "Landmark at the place…", ("K",), "Circuit", has_comparison),
    Action("landmark:off", "Take the landmark at the place off", ("Shift+K",), "Circuit", has_comparison),
    Action("hazard", "Hazard in this corner…", (), "Circuit", has_comparison),
    Action("corner:name", "Number and name of this corner…", ("Ctrl+K",), "Circuit", has_comparison),
    Action("corner:split", "Split this corner at the place", ("Ctrl+Shift+S",), "Circuit", has_comparison),
    Action("corner:merge", "Merge this corner with the one after it", ("Ctrl+Shift+M",), "Circuit", has_comparison),
    Action("corner:begin", "Let this corner begin at the place", ("[",), "Circuit", has_comparison),
    Action("corner:end", "Let this corner end at the place", ("]",), "Circuit", has_comparison),
    Action("rules", "Local rules…", (), "Circuit", has_comparison),
    Action("circuit:out", "Write the circuit as a file…", (), "Circuit", has_comparison),
    Action("circuit:in", "Take in a circuit from a file…", (), "Circuit", has_comparison),
    *(_unit("speed", u) for u in SPEEDS),
    *(_unit("length", u) for u in LENGTHS),
    *(_unit("pressure", u) for u in PRESSURES),
    Action("keys", "All keys", ("F1", "?"), "Help"),
)  # fmt: skip
BY_ID = {a.id: a for a in ACTIONS}
MENUS = ("File", "Choose", "Note", "Go", "Show", "Walk", "Circuit", "Units", "Help")


def key_hint(action: str) -> str:
    """Text and first key of an action, for tooltips."""
    found = BY_ID[action]
    return f"{found.text} ({found.keys[0]})" if found.keys else found.text
