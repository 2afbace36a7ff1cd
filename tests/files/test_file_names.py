"""File names made from names that users type."""

import os

import pytest

from cinetica.files.atomic_write import backup_of
from cinetica.files.file_names import file_names, fitting


@pytest.mark.parametrize("letter", ["a", "é", "日"])
def test_a_name_is_shortened_only_if_it_or_its_backup_does_not_fit(tmp_path, letter):
    most, size = os.pathconf(tmp_path, "PC_NAME_MAX"), len(letter.encode())
    for count in range((most - 10) // size, most // size + 20):
        path = tmp_path / f"{letter * count}.json"
        fits = len(os.fsencode(backup_of(path).name)) <= most
        found = fitting(path)
        assert (found == path) is fits
        assert found.suffix == ".json"
        assert path.name.startswith(found.stem)
        # Not one more whole letter would fit.
        assert most - size < len(os.fsencode(backup_of(found).name)) <= most or fits
        backup_of(found).write_bytes(b"")


def test_a_missing_folder_changes_no_name(tmp_path):
    path = tmp_path / "none" / f"{'a' * 300}.json"
    assert fitting(path) == path


def test_each_name_has_a_file_of_its_own():
    found = file_names(["Rooftop hop", "rooftop HOP", "Rooftop/hop", "…", ""])
    assert len({name.lower() for name in found}) == 5
    assert found[0] == "rooftop-hop"
    assert all(name and "/" not in name for name in found)
    assert file_names(["Wren", "wren", "WREN"]) == ["wren", "wren-2", "wren-3"]
