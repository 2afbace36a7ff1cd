"""Studies that were valid before are not validated again; whatever is not whole, or is something else, is."""

import io
import os
import pickle
import subprocess
import sys

import pytest

from cinetica.files import known
from cinetica.files.reading import Refused
from cinetica.files.shipped import shipped_study
from cinetica.files.study_json import parse_study, read_study, study_text, write_study
from cinetica.machine.cache import cache_folder

STUDY = shipped_study("harbour")
CONTENT = study_text(STUDY).encode()


@pytest.fixture(autouse=True)
def cache(tmp_path, monkeypatch):
    """An empty cache."""
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path / "cache"))
    cache_folder.cache_clear()
    yield tmp_path / "cache"
    cache_folder.cache_clear()


def kept(cache):
    return sorted(path for path in cache.rglob("*") if path.is_file())


def test_what_is_recalled_is_what_was_validated():
    assert known.recalled(CONTENT) is None
    known.remember(CONTENT, STUDY)
    found = known.recalled(CONTENT)
    assert found == STUDY == parse_study(CONTENT, "a file")
    assert found is not STUDY
    assert [type(group) for _, group in found.tunes[0]] == [type(group) for _, group in STUDY.tunes[0]]
    assert type(found.tunes[0].jump.short_hop) is type(STUDY.tunes[0].jump.short_hop)
    assert study_text(found) == study_text(STUDY)


def test_a_file_of_other_bytes_is_read_itself(tmp_path):
    path = tmp_path / "study.json"
    path.write_bytes(CONTENT)
    assert read_study(path) == STUDY
    path.write_bytes(CONTENT.replace(b'"Wren"', b'"Rail"'))
    assert read_study(path).tune("Rail").drive == STUDY.tune("Wren").drive
    path.write_bytes(CONTENT.replace(b'"version": 1', b'"version": 0'))
    with pytest.raises(Refused):
        read_study(path)


def test_what_was_saved_is_recalled_at_the_next_start(tmp_path, cache):
    write_study(STUDY, tmp_path / "study.json")
    assert known.recalled((tmp_path / "study.json").read_bytes()) == STUDY
    assert len(kept(cache)) == 1


@pytest.mark.parametrize("damage", ["cut", "changed", "emptied"])
def test_what_is_damaged_counts_as_not_there(cache, damage):
    known.remember(CONTENT, STUDY)
    (path,) = kept(cache)
    content = path.read_bytes()
    middle = len(content) // 2
    path.write_bytes(
        {
            "cut": content[:middle],
            "changed": content[:middle] + bytes([content[middle] ^ 1]) + content[middle + 1 :],
            "emptied": b"",
        }[damage]
    )
    assert known.recalled(CONTENT) is None


class Bad:
    def __reduce__(self):
        return (os.mkdir, ("never",))


@pytest.mark.parametrize("thing", [Bad(), {"a": 1}, STUDY.tunes[0]])
def test_nothing_but_a_study_comes_out_of_it(tmp_path, monkeypatch, thing):
    monkeypatch.chdir(tmp_path)
    known.remember(CONTENT, thing)
    assert known.recalled(CONTENT) is None
    assert not (tmp_path / "never").exists()


def test_only_the_latest_are_kept(cache):
    for number in range(known.KEPT + 3):
        known.remember(CONTENT + b" " * number, STUDY)
    assert len(kept(cache)) == known.KEPT
    assert known.recalled(CONTENT + b" " * (known.KEPT + 2)) == STUDY


def test_what_is_opened_again_and_again_stays(cache):
    known.remember(CONTENT, STUDY)
    for number in range(1, known.KEPT + 3):
        for path in kept(cache):
            os.utime(path, ns=(path.stat().st_atime_ns, path.stat().st_mtime_ns - 10**9))
        assert known.recalled(CONTENT) == STUDY
        known.remember(CONTENT + b" " * number, STUDY)
    assert known.recalled(CONTENT) == STUDY


def test_where_nothing_can_be_kept_studies_are_read_all_the_same(tmp_path, cache):
    cache.write_text("a file where the folder would be")
    (tmp_path / "study.json").write_bytes(CONTENT)
    assert read_study(tmp_path / "study.json") == STUDY


def test_a_very_large_one_is_not_kept(cache):
    known.remember(CONTENT + b" " * known.LARGEST, STUDY)
    assert kept(cache) == []
    assert known.recalled(CONTENT + b" " * known.LARGEST) is None


@pytest.mark.parametrize("protocol", range(pickle.HIGHEST_PROTOCOL + 1))
def test_functions_of_others_are_no_part_of_a_study(protocol):
    with pytest.raises(pickle.UnpicklingError):
        known._Models(io.BytesIO(pickle.dumps(os.getcwd, protocol))).load()


def named(module, name):
    """A pickle that asks for what has this name, which may have dots in it."""
    texts = (part.encode() for part in (module, name))
    return b"\x80\x04" + b"".join(b"\x8c" + bytes([len(text)]) + text for text in texts) + b"\x93."


@pytest.mark.parametrize("name", ["re.compile", "re.enum.sys.exit", "Annotated", "range_words"])
def test_nor_is_what_the_models_have_imported(name):
    assert known._Models(io.BytesIO(named("cinetica.model.targets", "Target"))).load().__name__ == "Target"
    with pytest.raises(pickle.UnpicklingError):
        known._Models(io.BytesIO(named("cinetica.model.targets", name))).load()


def test_a_window_opens_without_what_validates(tmp_path):
    """The second time: then its study is known."""
    program = (
        "import sys\n"
        "from cinetica.desk.application import application, start\n"
        "from cinetica.desk.state.session import Session\n"
        "from cinetica.desk.window import Window\n"
        "from cinetica.files.shipped import shipped_study\n"
        "app = application()\n"
        "window = Window(Session(shipped_study('harbour')))\n"
        "window.show()\n"
        "start(window)\n"
        "app.processEvents()\n"
        "assert window.page.strips.strips[0].curves.drawn\n"
        "print('pydantic' in sys.modules)\n"
    )
    usual = {name: value for name, value in os.environ.items() if name != "NUMBA_CACHE_DIR"}

    def loaded():
        done = subprocess.run([sys.executable, "-c", program], check=True, capture_output=True, text=True, env=usual)
        return done.stdout.split()[-1]

    loaded()
    # Other tests keep theirs in the same cache meanwhile, and may push it out.
    assert any(loaded() == "False" for _ in range(3))
