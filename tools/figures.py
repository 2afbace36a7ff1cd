"""Draw the figures and tables of docs/model.md from the declarations: `python tools/figures.py`."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from rule_figures import RULE_FIGURES

from cinetica.files.figures import panels_svg
from cinetica.link.messages import FROM_DESK, FROM_GAME, Argument, Message
from cinetica.model.clock import CLOCK_PARAMETERS
from cinetica.model.parameters import SECTIONS, Parameter
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.model.value_text import value_text
from cinetica.reading.explain import RULES, equation
from cinetica.reading.measures import MEASURES
from cinetica.reading.probes import probe_curve, probes

DOCS = Path(__file__).parents[1] / "docs"
BAR = "\\|"
MEASURES_BEGIN, MEASURES_END = "<!-- table of measures: made by tools/figures.py -->", "<!-- end of measures -->"
RULES_BEGIN, RULES_END = "<!-- table of rules: made by tools/figures.py -->", "<!-- end of rules -->"
SIDES = {"game": FROM_GAME, "desk": FROM_DESK}
BEGIN, END = "<!-- table of parameters: made by tools/figures.py -->", "<!-- end of table -->"


def figure(parameter: Parameter, view: str) -> str:
    """One panel for each value of a choice, all on one scale, as SVG."""
    tune = Tune(name="Wren", view=view)  # type: ignore[arg-type]
    options = [option.id for option in parameter.choices(view)]
    curves = {option.replace("_", " "): probe_curve(tune, parameter.id, option) for option in options}
    return panels_svg(f"What {parameter.id} changes", curves) + "\n"


def table() -> str:
    """Every parameter, in the order of the sheet."""
    lines = ["| id | unit | default | allowed | meaning |", "|---|---|---|---|---|"]
    for section in SECTIONS:
        for parameter in (*PARAMETERS, *CLOCK_PARAMETERS):
            if parameter.section == section:
                default = str(parameter.default).lower() if parameter.kind == "switch" else parameter.default
                default = value_text(parameter, default) if parameter.kind == "curve" else default
                allowed = (
                    parameter.allowed.removeprefix("one of ").removeprefix("a number ").removeprefix("a whole number ")
                )
                lines.append(f"| `{parameter.id}` | {parameter.unit} | {default} | {allowed} | {parameter.meaning} |")
    return "\n".join(lines)


def rules() -> str:
    """Every rule by the name under which “Explain this frame” shows it, with the equation of its function."""
    lines = ["| rule | what it does |", "|---|---|"]
    return "\n".join([*lines, *(f"| `{rule}` | {equation(rule).replace('|', BAR)} |" for rule in RULES)])


def measures() -> str:
    """Every figure, as it is declared."""
    lines = ["| id | figure | unit | seen from | what it is | absent where |", "|---|---|---|---|---|---|"]
    for measure in MEASURES:
        views = "both" if len(measure.views) > 1 else {"side": "the side", "top": "above"}[measure.views[0]]
        lines.append(
            f"| `{measure.id}` | {measure.label} | {measure.unit} | {views} | {measure.meaning} | {measure.absent} |"
        )
    return "\n".join(lines)


def messages(declared: Mapping[str, Message]) -> str:
    """The messages of one side of the link."""
    lines = ["| address | types | arguments | meaning |", "|---|---|---|---|"]
    for message in declared.values():
        said = [_argument(each) for each in message.arguments]
        if message.rest:
            said.append(f"then, any number of times: {', '.join(_argument(each) for each in message.rest)}")
        types = f"`{message.types}`" if message.types else ""
        lines.append(f"| `{message.address}` | {types} | {'; '.join(said)} | {message.meaning} |")
    return "\n".join(lines)


def _argument(each: Argument) -> str:
    return f"`{each.name}` {each.meaning}".rstrip()


def between(text: str, begin: str, end: str, new: str) -> str:
    before, rest = text.split(begin)
    return f"{before}{begin}\n{new}\n{end}{rest.split(end)[1]}"


def main() -> None:
    (DOCS / "figures").mkdir(exist_ok=True)
    for id in probes():
        parameter = parameter_by_id(id)
        view = (
            "top"
            if id in ("drive.law", "drive.axes", "facing.facing", "facing.aim") or "side" not in parameter.views
            else "side"
        )
        (DOCS / "figures" / f"{id}.svg").write_text(figure(parameter, view))
    for name, each in RULE_FIGURES.items():
        (DOCS / "figures" / f"{name}.svg").write_text(each.svg())
    text = (DOCS / "model.md").read_text()
    text = between(text, BEGIN, END, table())
    text = between(text, MEASURES_BEGIN, MEASURES_END, measures())
    (DOCS / "model.md").write_text(between(text, RULES_BEGIN, RULES_END, rules()))
    text = (DOCS / "link.md").read_text()
    for side, declared in SIDES.items():
        begin = f"<!-- messages from the {side}: made by tools/figures.py -->"
        end = f"<!-- end of messages from the {side} -->"
        text = between(text, begin, end, messages(declared))
    (DOCS / "link.md").write_text(text)


if __name__ == "__main__":
    main()
