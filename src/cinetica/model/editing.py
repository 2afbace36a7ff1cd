"""Editing a study: tunes, drills, targets, milestones and logs. Every edit returns a new study.

Invalid edits raise ValueError, worded for the user.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence

from cinetica.model.course import Course, Rectangle
from cinetica.model.milestone import Logged, Milestone
from cinetica.model.parameters import Parameter, Value
from cinetica.model.study import Drill, Study, UnitSystem
from cinetica.model.take import Take
from cinetica.model.targets import Target
from cinetica.model.text import LONGEST_NAME, unseen_words, visible
from cinetica.model.tune import Tune, View

# As many as letters, inks, dashes and shapes distinguish at a glance.
MOST_TUNES = 6
# The most rows of logged curves with which a study can still be read.
MOST_LOGGED = 110_000
FLOOR = Rectangle(-20.0, -1.0, 40.0, 0.0)


def free_name(wanted: str, taken: Iterable[str]) -> str:
    """The name itself, or with the first number that makes it unique; never longer than a name may be."""
    names = set(taken)
    number = 2
    name = named_after(wanted, "")
    while name in names:
        name, number = named_after(wanted, f" {number}"), number + 1
    return name


def named_after(name: str, suffix: str) -> str:
    """A name with a suffix; if that would be too long, the name itself is shortened."""
    if len(name) + len(suffix) <= LONGEST_NAME:
        return name + suffix
    return f"{name[: max(1, LONGEST_NAME - len(suffix) - 1)].rstrip()}…{suffix}"[:LONGEST_NAME]


def _names(things: Sequence[Tune] | Sequence[Drill]) -> list[str]:
    return [thing.name for thing in things]


def check_name(name: str, taken: Iterable[str], noun: str) -> str:
    """The name without surrounding spaces; ValueError if it is empty, too long or taken."""
    name = name.strip()
    if not name:
        raise ValueError(f"A {noun} needs a name; it keeps its old one.")
    if visible(name) != name:
        raise ValueError(f"{unseen_words(visible(name))}; nothing was changed.")
    if name in set(taken):
        raise ValueError(f"There is already a {noun} called “{name}”; choose another name.")
    return name


def _checked(make: type[Tune] | type[Drill], name: str, noun: str) -> str:
    from pydantic import ValidationError

    try:
        make(name=name)
    except ValidationError as error:
        raise ValueError(f"“{name}” is not a valid name for a {noun}: {error.errors()[0]['msg']}.") from error
    return name


def described(study: Study, *, name: str | None = None, notes: str | None = None) -> Study:
    """The study with another name or other notes; ValueError if the name is invalid."""
    name = study.name if name is None else check_name(name, (), "study")
    return study.model_copy(update={"name": name, "notes": study.notes if notes is None else notes})


def with_units(study: Study, units: UnitSystem) -> Study:
    """Show the study's numbers in other units."""
    return study.model_copy(update={"units": units})


def with_taken(study: Study, other: Study, tunes: Collection[str], drills: Collection[str]) -> Study:
    """Append tunes and drills of another study, renamed where a name is taken.

    Snapshots stay linked to their tune if it is copied too. A target limited to some tunes is kept for those that are
    copied, and dropped if none is. Raises ValueError if there would be too many.
    """
    renamed: dict[str, str] = {}
    for tune in other.tunes:
        if tune.name in tunes:
            study = with_new_tune(study, tune.model_copy(update={"snapshot_of": renamed.get(tune.snapshot_of, "")}))
            renamed[tune.name] = study.tunes[-1].name
    for drill in other.drills:
        if drill.name in drills:
            study = with_recorded(study, _with_tunes_of_targets(drill, lambda names: _only(names, renamed)))
    return study


def _only(names: tuple[str, ...], renamed: Mapping[str, str]) -> tuple[str, ...]:
    return tuple(renamed[name] for name in names if name in renamed)


# Tunes


def with_new_tune(study: Study, tune: Tune, *, after: str = "") -> Study:
    """Insert a tune after the one named `after`, or at the end; ValueError if its view already has six."""
    if sum(other.view == tune.view for other in study.tunes) >= MOST_TUNES:
        raise ValueError(
            f"There are {MOST_TUNES} tunes for this view, the most that can be told apart. Remove one first."
        )
    tune = tune.model_copy(update={"name": free_name(tune.name, _names(study.tunes))})
    names = _names(study.tunes)
    place = names.index(after) + 1 if after in names else len(names)
    return study.model_copy(update={"tunes": (*study.tunes[:place], tune, *study.tunes[place:])})


def new_tune(study: Study, view: View) -> Study:
    """Append a tune with the default numbers of a view."""
    return with_new_tune(study, Tune(name="New tune", view=view))


def duplicated(study: Study, name: str) -> Study:
    """Insert a copy of a tune after it."""
    tune = study.tune(name)
    return with_new_tune(
        study, tune.model_copy(update={"name": named_after(name, " copy"), "snapshot_of": ""}), after=name
    )


def with_snapshot(study: Study, name: str) -> Study:
    """Insert a frozen copy of a tune, as it is now, after it."""
    tune = study.tune(name)
    taken = free_name(named_after(tune.name, " before"), _names(study.tunes))
    return with_new_tune(study, tune.model_copy(update={"name": taken, "snapshot_of": name}), after=name)


def restore_snapshot(study: Study, snapshot: str) -> Study:
    """Give a tune the numbers of its snapshot.

    Raises ValueError if the tune is gone, or if `snapshot` is not a snapshot.
    """
    frozen = study.tune(snapshot)
    if not frozen.snapshot_of:
        raise ValueError(f"“{snapshot}” is not a snapshot. Take one first; then you can restore it.")
    if frozen.snapshot_of not in _names(study.tunes):
        raise ValueError(
            f"“{frozen.snapshot_of}”, which this is a snapshot of, is gone. Duplicate the snapshot instead."
        )
    now = study.tune(frozen.snapshot_of)
    restored = frozen.model_copy(update={"name": now.name, "note": now.note, "snapshot_of": now.snapshot_of})
    return study.with_tune(restored, instead_of=now.name)


def renamed_tune(study: Study, name: str, to: str) -> Study:
    """Rename a tune, its snapshots' links and the targets that name it."""
    others = [tune.name for tune in study.tunes if tune.name != name]
    to = _checked(Tune, check_name(to, others, "tune"), "tune")
    tunes = tuple(
        tune.model_copy(
            update={"name": to} if tune.name == name else {"snapshot_of": to} if tune.snapshot_of == name else {}
        )
        for tune in study.tunes
    )
    renamed = {name: to}
    drills = tuple(
        _with_tunes_of_targets(drill, lambda names: tuple(renamed.get(each, each) for each in names))
        for drill in study.drills
    )
    return study.model_copy(update={"tunes": tunes, "drills": drills})


def with_tune_note(study: Study, name: str, note: str) -> Study:
    """Set the note of a tune."""
    return study.with_tune(study.tune(name).model_copy(update={"note": note.strip()}), instead_of=name)


def without_tune(study: Study, name: str) -> Study:
    """Remove a tune, and the targets that were for it alone."""
    drills = tuple(
        _with_tunes_of_targets(drill, lambda names: tuple(each for each in names if each != name))
        for drill in study.drills
    )
    return study.model_copy(
        update={"tunes": tuple(tune for tune in study.tunes if tune.name != name), "drills": drills}
    )


# Targets


def _with_tunes_of_targets(drill: Drill, change: Callable[[tuple[str, ...]], tuple[str, ...]]) -> Drill:
    """Map the tunes that a drill's targets name; a target left without tunes is removed.

    Returns the same object if nothing changes.
    """
    changed = []
    for target in drill.targets:
        names = change(target.tunes)
        if names == target.tunes:
            changed.append(target)
        elif names:
            changed.append(target.model_copy(update={"tunes": names}))
    return drill if changed == list(drill.targets) else drill.model_copy(update={"targets": tuple(changed)})


def with_target(study: Study, drill: str, target: Target) -> Study:
    """Add a target, or replace the one for the same measure and tunes."""
    taken = without_target(study, drill, target.measure, target.tunes)
    kept = taken.drill(drill)
    return with_drill(study, kept.model_copy(update={"targets": (*kept.targets, target)}), instead_of=drill)


def without_target(study: Study, drill: str, measure: str, tunes: tuple[str, ...] = ()) -> Study:
    """Remove the targets of a measure for these tunes, or for all if none are given.

    A target that was for all tunes then remains for the other tunes of the view.
    """
    chosen, kept = study.drill(drill), []
    for target in chosen.targets:
        names = target.tunes or tuple(tune.name for tune in study.tunes_for(chosen))
        left = tuple(name for name in names if name not in tunes) if tunes else ()
        if target.measure != measure:
            kept.append(target)
        elif left:
            kept.append(target if left == names else target.model_copy(update={"tunes": left}))
    return with_drill(study, chosen.model_copy(update={"targets": tuple(kept)}), instead_of=drill)


def moved_tune(study: Study, name: str, by: int) -> Study:
    """Move a tune by `by` places among those of its view, stopping at the ends."""
    tune = study.tune(name)
    places = [place for place, other in enumerate(study.tunes) if other.view == tune.view]
    now = [study.tunes[place].name for place in places].index(name)
    to = min(max(now + by, 0), len(places) - 1)
    order = [study.tunes[place] for place in places]
    order.insert(to, order.pop(now))
    tunes = list(study.tunes)
    for place, other in zip(places, order, strict=True):
        tunes[place] = other
    return study.model_copy(update={"tunes": tuple(tunes)})


def with_values(study: Study, changes: Iterable[tuple[str, Parameter, Value]]) -> Study:
    """Set several values, each for the named tune; ValueError if one is invalid, and then none is set."""
    for name, parameter, value in changes:
        tune = study.tune(name)
        if tune.snapshot_of:
            raise ValueError(f"“{name}” is a snapshot and cannot be changed. Duplicate it to change it, or restore it.")
        try:
            tune = tune.put(parameter.id, value)
        except ValueError as error:
            raise ValueError(f"{parameter.label} is {parameter.allowed}. It was not changed.") from error
        study = study.with_tune(tune, instead_of=name)
    return study


def with_copied_values(study: Study, source: str, target: str, parameters: Iterable[Parameter]) -> Study:
    """Copy these values from one tune to another; ValueError if they are invalid there."""
    given = study.tune(source)
    return with_values(study, [(target, parameter, given.get(parameter.id)) for parameter in parameters])


# Drills


def with_new_drill(study: Study, view: View) -> Study:
    """Append an empty drill: two seconds without any input.

    Seen from the side it has a long floor, from above it has no solids.
    """
    name = free_name("New drill", _names(study.drills))
    course = Course(solids=(FLOOR,)) if view == "side" else Course()
    return study.model_copy(
        update={"drills": (*study.drills, Drill(name=name, view=view, course=course, take=Take(length=120)))}
    )


def with_recorded(study: Study, drill: Drill) -> Study:
    """Append a recorded drill."""
    drill = drill.model_copy(update={"name": free_name(drill.name, _names(study.drills))})
    return study.model_copy(update={"drills": (*study.drills, drill)})


def duplicated_drill(study: Study, name: str) -> Study:
    """Insert a copy of a drill after it."""
    drill = study.drill(name)
    copy = drill.model_copy(update={"name": free_name(named_after(name, " copy"), _names(study.drills))})
    place = _names(study.drills).index(name) + 1
    return study.model_copy(update={"drills": (*study.drills[:place], copy, *study.drills[place:])})


def renamed_drill(study: Study, name: str, to: str) -> Study:
    """Rename a drill and the drill named by its logs."""
    others = [drill.name for drill in study.drills if drill.name != name]
    to = _checked(Drill, check_name(to, others, "drill"), "drill")
    logs = tuple(log.model_copy(update={"drill": to}) if log.drill == name else log for log in study.logs)
    study = study.model_copy(update={"logs": logs})
    return with_drill(study, study.drill(name).model_copy(update={"name": to}), instead_of=name)


def with_drill_note(study: Study, name: str, note: str) -> Study:
    """Set the note of a drill."""
    return with_drill(study, study.drill(name).model_copy(update={"note": note.strip()}), instead_of=name)


def with_drill(study: Study, drill: Drill, *, instead_of: str) -> Study:
    """Replace the drill named `instead_of`."""
    return study.model_copy(
        update={"drills": tuple(drill if other.name == instead_of else other for other in study.drills)}
    )


def without_drill(study: Study, name: str) -> Study:
    """Remove a drill and the logs that belong to it."""
    drills = tuple(drill for drill in study.drills if drill.name != name)
    return study.model_copy(update={"drills": drills, "logs": tuple(log for log in study.logs if log.drill != name)})


def moved_drill(study: Study, name: str, to: int) -> Study:
    """Move a drill to a place among those of its view, at most to the end."""
    drill = study.drill(name)
    places = [place for place, other in enumerate(study.drills) if other.view == drill.view]
    order = [study.drills[place] for place in places]
    order.remove(drill)
    order.insert(min(max(to, 0), len(order)), drill)
    drills = list(study.drills)
    for place, other in zip(places, order, strict=True):
        drills[place] = other
    return study.model_copy(update={"drills": tuple(drills)})


# Milestones and logged curves


def with_milestone(study: Study, name: str, at: str) -> Study:
    """Keep all tunes, as they are now, under a name; ValueError if the name is invalid."""
    name = check_name(name, [milestone.name for milestone in study.milestones], "milestone")
    if not study.tunes:
        raise ValueError("There is no tune to keep in a milestone yet. Add one first.")
    return study.model_copy(update={"milestones": (*study.milestones, Milestone(name=name, at=at, tunes=study.tunes))})


def without_milestone(study: Study, name: str) -> Study:
    """Remove a milestone."""
    return study.model_copy(
        update={"milestones": tuple(milestone for milestone in study.milestones if milestone.name != name)}
    )


def renamed_milestone(study: Study, name: str, to: str) -> Study:
    """Rename a milestone; ValueError if the name is invalid or taken."""
    to = check_name(to, [milestone.name for milestone in study.milestones if milestone.name != name], "milestone")
    renamed = tuple(m.model_copy(update={"name": to}) if m.name == name else m for m in study.milestones)
    return study.model_copy(update={"milestones": renamed})


def with_restored_tune(study: Study, milestone: str, tune: str) -> Study:
    """Insert a tune as it was at a milestone after the tune as it is now, or at the end if that is gone."""
    kept = study.milestone(milestone).tune(tune)
    return with_new_tune(
        study, kept.model_copy(update={"name": named_after(tune, f", {milestone[:80]}"), "snapshot_of": ""}), after=tune
    )


def with_log(study: Study, log: Logged) -> Study:
    """Add a log; ValueError if its drill does not exist."""
    study.drill(log.drill)
    if (rows := sum(len(each.time) for each in (*study.logs, log))) > MOST_LOGGED:
        raise ValueError(
            f"The game logs would have {rows} rows; a study keeps up to {MOST_LOGGED}. Remove one, or log fewer frames."
        )
    taken = [*_names(study.tunes), *(other.name for other in study.logs)]
    return study.model_copy(update={"logs": (*study.logs, log.model_copy(update={"name": free_name(log.name, taken)}))})


def without_log(study: Study, name: str) -> Study:
    """Remove a log."""
    return study.model_copy(update={"logs": tuple(log for log in study.logs if log.name != name)})
