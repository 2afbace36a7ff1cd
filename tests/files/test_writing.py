import os

import pytest

from cinetica.files.writing import backup_of, write_atomically


def test_the_old_content_stays_beside_the_new(tmp_path):
    path = tmp_path / "study.json"
    for content in (b"first", b"second", b"third"):
        write_atomically(path, content, backup=True)
    assert path.read_bytes() == b"third"
    assert backup_of(path).read_bytes() == b"second"
    assert sorted(each.name for each in tmp_path.iterdir()) == ["study.json", "study.json~"]


def test_where_it_cannot_be_written_nothing_changes(tmp_path, monkeypatch):
    path = tmp_path / "study.json"
    write_atomically(path, b"old")

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("cinetica.files.writing.os.fsync", full)
    with pytest.raises(OSError, match="No space"):
        write_atomically(path, b"new", backup=True)
    assert path.read_bytes() == b"old"
    assert [each.name for each in tmp_path.iterdir()] == ["study.json"]


def test_who_may_read_it_stays_and_a_link_is_followed(tmp_path):
    real, link = tmp_path / "real.json", tmp_path / "link.json"
    real.write_bytes(b"old")
    real.chmod(0o600)
    link.symlink_to(real)
    write_atomically(link, b"new")
    assert link.is_symlink()
    assert real.read_bytes() == b"new"
    assert real.stat().st_mode & 0o777 == 0o600


def test_without_links_on_the_file_system_the_backup_is_a_copy(tmp_path, monkeypatch):
    def no_links(*_):
        raise OSError(1, "Operation not permitted")

    monkeypatch.setattr(os, "link", no_links)
    path = tmp_path / "study.json"
    write_atomically(path, b"old")
    write_atomically(path, b"new", backup=True)
    assert (path.read_bytes(), backup_of(path).read_bytes()) == (b"new", b"old")
