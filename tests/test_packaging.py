"""The desktop integration files, and their agreement with the program."""

import configparser
import json
import runpy
import tomllib
import xml.etree.ElementTree as ET
from pathlib import Path

from cinetica import __version__
from cinetica.cli import main as command
from cinetica.desk.application import DESKTOP_ID, ICON
from cinetica.files.guide import PLACES
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import study_text

ROOT = Path(__file__).parents[1]
SHARE = ROOT / "share"


def test_man_page_and_completions_are_those_of_the_command_line():
    made = runpy.run_path(str(ROOT / "tools/manual.py"))["texts"]()
    for path, text in made.items():
        assert path.read_text() == text, f"{path.name} is old; run `make manual`"
    page = (SHARE / "man/man1/cinetica.1").read_text()
    for name, sub in command.commands.items():
        assert sub.hidden or f".SS cinetica {name}" in page


def test_every_shared_file_is_in_the_wheel_and_installed():
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())
    data = project["tool"]["setuptools"]["data-files"]
    # Only the program reads the guide, beneath its own prefix.
    guide = {folder: files for folder, files in data.items() if folder.startswith("share/doc/cinetica")}
    assert guide == {
        "share/doc/cinetica": ["docs/guide.md"], "share/doc/cinetica/screenshots": ["docs/screenshots/*.png"],
    }  # fmt: skip
    assert PLACES[1].parts[-3:] == ("share", "doc", "cinetica")
    data = {folder: files for folder, files in data.items() if folder not in guide}
    listed = {file for files in data.values() for file in files}
    there = {str(path.relative_to(ROOT)) for path in SHARE.rglob("*") if path.is_file()}
    assert there < listed
    assert listed - there == {str(ICON.relative_to(ROOT))}
    script = (ROOT / "tools/install").read_text()
    for folder, files in data.items():
        for file in files:
            assert f"{folder.removeprefix('share/')}/{Path(file).name}" in script


def test_desktop_entry_metainfo_and_file_type_name_the_same_things():
    entry = configparser.ConfigParser(interpolation=None, strict=True)
    entry.optionxform = str
    entry.read(SHARE / f"applications/{DESKTOP_ID}.desktop")
    main = entry["Desktop Entry"]
    info = ET.parse(SHARE / f"metainfo/{DESKTOP_ID}.metainfo.xml").getroot()
    mime = ET.parse(SHARE / f"mime/packages/{DESKTOP_ID}.xml").getroot()
    kind = next(iter(mime)).get("type")
    assert main["MimeType"] == f"{kind};"
    assert main["Icon"] == info.findtext("id") == DESKTOP_ID == ICON.stem
    assert info.findtext("launchable") == f"{DESKTOP_ID}.desktop"
    assert info.findtext("provides/mediatype") == kind
    assert info.find("releases/release").get("version") == __version__


def test_a_study_is_known_by_its_first_bytes():
    mime = ET.parse(SHARE / f"mime/packages/{DESKTOP_ID}.xml").getroot()
    match = mime.find(".//{*}match")
    low, high = map(int, match.get("offset").split(":"))
    assert match.get("value") in study_text(shipped_study("harbour"))[low : high + len(match.get("value"))]
    assert json.loads(match.get("value")) == "cinetica-study"


def test_the_icon_scales():
    root = ET.parse(ICON).getroot()
    assert root.get("viewBox") == "0 0 128 128"
