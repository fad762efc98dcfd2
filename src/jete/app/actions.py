"""Everything one can do, as data: menus, shortcuts and the list of keys are made from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from jete.app.pages import PAGES, PageEntry
from jete.report.units import LENGTHS, PRESSURES, SPEEDS
from jete.session import operations as ops
from jete.session.display import choices

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
    ``page`` is the page that does it; ``seen_on`` the one page on which its effect can be seen: elsewhere it is not done.
    """

    id: str
    text: str
    keys: tuple[str, ...]
    menu: str
    enabled: Callable[[Session], bool] = always
    look: Callable[[Session], Session] | None = None
    checked: Callable[[Session], bool] | None = None
    page: str = ""
    seen_on: str = ""


_MEASURED = {"speed": "speeds", "length": "distances", "pressure": "brake pressures"}


def _unit(kind: str, unit: str) -> Action:
    name = "% of the hardest press" if unit == "%" else unit
    return Action(
        f"{kind}:{unit}", f"Show {_MEASURED[kind]} in {name}", (), "Units", look=lambda s: ops.display(s, **{kind: unit}),
        checked=lambda s: getattr(s.display, kind) == unit,
    )  # fmt: skip


def _to(page: PageEntry) -> Action:
    return Action(f"page:{page.id}", f"Page {page.title}", (page.key,), "Go", look=lambda s: ops.go_to_page(s, page.id))


def _walk(name: str, text: str, *keys: str) -> Action:
    return Action(name, text, keys, "Walk", on_walk, page="walk")


def _theme(session: Session) -> Session:
    """The next of the themes."""
    names = choices("theme")
    return ops.display(session, theme=names[(names.index(session.display.theme) + 1) % len(names)])


ACTIONS: tuple[Action, ...] = (
    Action("open", "Open logs…", ("Ctrl+O",), "File"),
    Action("folder", "Open a folder of logs…", ("Ctrl+Shift+O",), "File"),
    Action("watch", "Watch a folder…", (), "File"),
    Action("export", "Write this lap as a file…", ("Ctrl+E",), "File"),
    Action("export:pair", "Write the comparison as a file…", ("Ctrl+Shift+E",), "File", has_comparison),
    Action("report", "Write a debrief to hand out…", ("Ctrl+Alt+P",), "File", has_comparison),
    Action("guide:write", "Write the lap guide as a file…", (), "File", has_comparison, page="guide"),
    Action("guide:bag", "Write the page for the helmet bag…", (), "File", has_comparison, page="guide"),
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
    Action("reference", "Use this lap as reference", ("R",), "Choose", page="laps", seen_on="laps"),
    Action("compare", "Compare this lap", ("L",), "Choose", page="laps", seen_on="laps"),
    Action("ideal", "Use the run's ideal lap as reference", ("I",), "Choose", page="laps", seen_on="laps"),
    Action("over", "Lay this lap over the traces", ("V",), "Choose", page="laps", seen_on="laps"),
    Action("pin", "Pin as the reference for this class", ("Ctrl+R",), "Choose", page="laps"),
    Action("star", "Star this lap", ("S",), "Note", page="laps", seen_on="laps"),
    Action("note", "Note on this lap", ("M",), "Note", page="laps", seen_on="laps"),
    Action("aside", "This lap does not count, or counts again…", ("X",), "Note", page="laps", seen_on="laps"),
    Action("corner:note", "Note on this corner…", ("Shift+G",), "Note", has_comparison),
    Action("tag", "Tag and note on this lap in this corner…", ("G",), "Note", has_comparison),
    Action("line", "The start line of this run…", ("Ctrl+L",), "Note"),
    Action("target", "A time to reach…", ("Ctrl+T",), "Note", page="laps"),
    Action("remove", "Put this run into the bin", ("Ctrl+Del",), "Note", page="laps"),
    Action("search", "Search the shelf", ("Ctrl+F",), "Go", page="laps"),
    *(_to(p) for p in PAGES),
    Action("corner:next", "Corner after", ("N", "PgDown"), "Go", has_comparison, lambda s: ops.step_corner(s, 1)),
    Action("corner:before", "Corner before", ("B", "PgUp"), "Go", has_comparison, lambda s: ops.step_corner(s, -1)),
    Action("origin", "To the corner where this loss began", ("H",), "Go", has_comparison, page="ledger"),
    Action("place:on", "Place a little further", ("Right",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m + PLACE_STEP_M)),
    Action("place:back", "Place a little back", ("Left",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m - PLACE_STEP_M)),
    Action("place:far-on", "Place further by 20 m", ("Shift+Right",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m + PLACE_LEAP_M)),
    Action("place:far-back", "Place back by 20 m", ("Shift+Left",), "Go", has_comparison, lambda s: ops.go_to(s, s.look.place_m - PLACE_LEAP_M)),
    Action("range:whole", "The whole lap", ("W",), "Show", has_comparison, ops.show_whole),
    Action("range:in", "Closer", ("+",), "Show", has_comparison, lambda s: ops.zoom(s, s.look.place_m, 0.7)),
    Action("range:out", "Wider", ("-",), "Show", has_comparison, lambda s: ops.zoom(s, s.look.place_m, 1.0 / 0.7)),
    Action("order", "Ledger in track order, or most to gain first", ("O",), "Show", look=lambda s: ops.display(s, by_loss=not s.display.by_loss), seen_on="ledger"),
    Action("phase", "Ledger by cause, or by phase", ("F",), "Show", look=lambda s: ops.display(s, by_phase=not s.display.by_phase), seen_on="ledger"),
    Action("scope", "Ledger of this lap, or of the run", ("A",), "Show", look=lambda s: ops.display(s, whole_run=not s.display.whole_run), seen_on="ledger"),
    Action("beside", "Beside the corner: marks, shapes, passes, over time or what if", ("D",), "Show", look=ops.next_beside, seen_on="corner"),
    Action("count", "Metres of the corner from its apex, or from the landmark one brakes by", ("Shift+D",), "Show", look=lambda s: ops.display(s, from_apex=not s.display.from_apex)),
    Action("seat", "Places from landmarks, or in metres only", ("E",), "Show", look=lambda s: ops.display(s, by_landmark=not s.display.by_landmark), checked=lambda s: s.display.by_landmark),
    Action("panels", "Panels of the traces…", ("P",), "Show"),
    Action("theme", "Light paper, dark sheet, high contrast", ("T",), "Show", look=_theme),
    _walk("walk:play", "Play, or stop", "Space"),
    _walk("walk:rate", "Full, half or quarter speed", "."),
    _walk("walk:back", "Three seconds back", "Backspace"),
    _walk("walk:next", "To the next mark of either lap", "Down"),
    _walk("walk:before", "To the mark before", "Up"),
    _walk("walk:loop", "The whole lap, or this corner over and over", "C"),
    _walk("walk:who", "Play the lap, or the reference", "Y"),
    _walk("walk:together", "The other lap at the same time, or at the same place", "U"),
    _walk("walk:eye", "From the seat, from behind, or the reference's film", "J"),
    _walk("walk:left", "From above, or the lap's film", "Ctrl+J"),
    _walk("walk:line", "The reference's line on the road", "Shift+J"),
    _walk("walk:view", "The eye: height, angle of view, how far ahead…"),
    _walk("film:add", "A film of this run…", "Alt+O"),
    _walk("film:tie", "The film shows this place", "Alt+T"),
    _walk("film:find", "Find by motion where the film belongs", "Alt+M"),
    _walk("film:alone", "Move the film alone, or with the data", "Alt+A"),
    _walk("film:later", "The film a frame later (a tied one against the data)", "Alt+Right"),
    _walk("film:earlier", "The film a frame earlier", "Alt+Left"),
    _walk("film:on", "The film a second on", "Alt+Shift+Right"),
    _walk("film:back", "The film a second back", "Alt+Shift+Left"),
    _walk("film:loose", "Untie the film"),
    _walk("film:off", "Take the film off this run"),
    _walk("rehearse", "Rehearse: the lap without marks", "Q"),
    _walk("call:brake", "Call the brake point", "1"),
    _walk("call:light", "Call the brake point, pressed lightly", "4"),
    _walk("call:firm", "Call the brake point, pressed firmly", "5"),
    _walk("call:hard", "Call the brake point, pressed hard", "6"),
    _walk("call:turn_in", "Call the turn-in", "2"),
    _walk("call:slow_point", "Call the slowest point, where no pedals were logged", "7"),
    _walk("rehearse:blind", "Rehearse without the picture: place names only", "Shift+Q"),
    _walk("rehearse:say", "Say the lap: gear, landmark and kind of each corner…"),
    _walk("rehearse:aloud", "Say each call's error aloud, or not"),
    _walk("call:pick_up", "Call the pick-up", "3"),
    Action("guide:versions", "Versions of the guide…", ("Ctrl+Shift+G",), "Show", on_guide, page="guide"),
    Action("guide:prints", "The guide as it prints, or its corners", ("Ctrl+P",), "Show", on_guide, page="guide"),
    Action("guide:middle", "The guide from this lap, or from the middle of the best", ("Ctrl+M",), "Show", on_guide, page="guide"),
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
    Action("help", "Help on what is seen", ("Shift+F1",), "Help"),
    Action("glossary", "Words", (), "Help"),
    Action("tour", "A first look around", (), "Help"),
)  # fmt: skip
BY_ID = {a.id: a for a in ACTIONS}
# Menus in menus, by the beginnings of their actions' ids: a menu is read at a glance.
SUBMENUS: dict[str, dict[str, tuple[str, ...]]] = {
    "File": {
        "Write, and hand on": ("export", "report", "guide:", "parcel:"),
        "The shelf": ("home", "shelf", "server", "backup", "restore", "bin"),
    },
    "Walk": {"The film": ("film:",), "Rehearse": ("rehearse", "call:")},
}
MENUS = ("File", "Choose", "Note", "Go", "Show", "Walk", "Circuit", "Units", "Help")


def submenu_of(action: Action) -> str:
    """The menu in its menu that an action stands in; empty for none.

    >>> submenu_of(BY_ID["film:tie"]), submenu_of(BY_ID["quit"])
    ('The film', '')
    """
    groups = SUBMENUS.get(action.menu, {})
    return next((name for name, begins in groups.items() if action.id.startswith(begins)), "")


def key_hint(action: str) -> str:
    """Text and first key of an action, for tooltips."""
    found = BY_ID[action]
    return f"{found.text} ({found.keys[0]})" if found.keys else found.text
