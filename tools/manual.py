"""Write man page and shell completions into share/ from the command line's declarations: `python tools/manual.py`."""

from __future__ import annotations

from pathlib import Path

import click
from click.shell_completion import BashComplete, FishComplete, ZshComplete

from cinetica import __version__
from cinetica.cli import main as command

SHARE = Path(__file__).parents[1] / "share"
COMPLETIONS = (
    (BashComplete, "bash-completion/completions/cinetica"),
    (ZshComplete, "zsh/site-functions/_cinetica"),
    (FishComplete, "fish/vendor_completions.d/cinetica.fish"),
)
FILES = """.TP
.I $XDG_CONFIG_HOME/cinetica/window.ini
What the window remembers from one start to the next.
.TP
.I $XDG_STATE_HOME/cinetica/
The log, studies that a crash left (recovery), and studies that an error has put aside.
.TP
.I $XDG_CACHE_HOME/cinetica/
The motion kernel as compiled for this machine."""


def roff(text: str) -> str:
    """Plain words as roff."""
    return " ".join(text.split()).replace("\\", "\\e").replace("-", "\\-").replace("`", "")


def page() -> str:
    """The man page, section 1."""
    context = click.Context(command, info_name="cinetica")
    parts = [
        f'.TH CINETICA 1 "" "Cinetica {__version__}" "User Commands"', ".SH NAME",
        "cinetica \\- tune how a game character moves and compare the curves",
        ".SH SYNOPSIS", ".B cinetica\n[\\fISTUDY\\fR]", ".br", ".B cinetica\n\\fICOMMAND\\fR [\\fIOPTION\\fR]...",
        ".SH DESCRIPTION", roff(command.help or ""), ".SH COMMANDS",
    ]  # fmt: skip
    for name, sub in command.commands.items():
        if sub.hidden:
            continue
        arguments = " ".join(
            parameter.make_metavar(context) for parameter in sub.params if isinstance(parameter, click.Argument)
        )
        parts += [f".SS cinetica {name} {roff(arguments)}", roff(sub.help or "")]
        for parameter in sub.params:
            if isinstance(parameter, click.Option):
                value = "" if parameter.is_flag else f" \\fI{roff(parameter.make_metavar(context))}\\fR"
                parts += [".TP", f"\\fB{roff(', '.join(parameter.opts))}\\fR{value}", roff(parameter.help or "")]
    parts += [
        ".SH EXIT STATUS",
        "0 done; 1 what was asked could not be done, or the log does not follow the tune; 2 wrong usage.",
        ".SH FILES",
        FILES,
    ]
    return "\n".join(part for part in parts if part) + "\n"


def texts() -> dict[Path, str]:
    """Every file that is made, with its content."""
    made = {SHARE / "man/man1/cinetica.1": page()}
    for shell, name in COMPLETIONS:
        complete = shell(command, {}, "cinetica", "_CINETICA_COMPLETE")
        made[SHARE / name] = (complete.source_template % complete.source_vars()).strip() + "\n"
    return made


def main() -> None:
    for path, text in texts().items():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)


if __name__ == "__main__":
    main()
