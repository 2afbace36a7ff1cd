import os
import stat
from pathlib import Path

import pytest

from cinetica.files.atomic_write import backup_of, write_atomically
from cinetica.files.reading import Refused, read_bytes
from tests.builders import full_device


def test_the_old_content_is_kept_as_a_backup(tmp_path):
    path = tmp_path / "study.json"
    for content in (b"first", b"second", b"third"):
        write_atomically(path, content, backup=True)
    assert path.read_bytes() == b"third"
    assert backup_of(path).read_bytes() == b"second"
    assert sorted(each.name for each in tmp_path.iterdir()) == ["study.json", "study.json~"]


def test_a_failed_write_changes_nothing(tmp_path, monkeypatch):
    path = tmp_path / "study.json"
    write_atomically(path, b"old")

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("cinetica.files.atomic_write.os.fsync", full)
    with pytest.raises(OSError, match="No space"):
        write_atomically(path, b"new", backup=True)
    assert path.read_bytes() == b"old"
    assert [each.name for each in tmp_path.iterdir()] == ["study.json"]


def test_the_content_is_flushed_before_the_rename(tmp_path, monkeypatch):
    """Buffered content is lost when the power fails, and the old file with it."""
    path, sizes, folders, sync = tmp_path / "study.json", [], [], os.fsync

    def noted(descriptor):
        if stat.S_ISREG(os.fstat(descriptor).st_mode):
            sizes.append((os.fstat(descriptor).st_size, path.exists()))
        else:
            folders.append(path.exists())
        sync(descriptor)

    monkeypatch.setattr("cinetica.files.atomic_write.os.fsync", noted)
    write_atomically(path, b"content")
    assert sizes == [(len(b"content"), False)]
    # The folder is flushed afterwards, so that its new entry lasts as well.
    assert folders == [True]


def test_permissions_are_kept_and_links_followed(tmp_path):
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
    path.chmod(0o640)
    write_atomically(path, b"new", backup=True)
    assert (path.read_bytes(), backup_of(path).read_bytes()) == (b"new", b"old")
    assert [each.stat().st_mode & 0o777 for each in (path, backup_of(path))] == [0o640, 0o640]


def test_links_of_others_in_shared_folders_are_not_followed(tmp_path, monkeypatch):
    """In a folder such as /tmp anybody may create a link under the name that is about to be saved."""
    target, shared = tmp_path / "target", tmp_path / "shared"
    target.write_bytes(b"mine")
    shared.mkdir()
    shared.chmod(0o1777)
    link = shared / "study.json"
    link.symlink_to(target)
    write_atomically(link, b"by my own link")
    assert target.read_bytes() == b"by my own link"
    # As if this were another user, in a folder of a third one.
    monkeypatch.setattr(os, "geteuid", lambda: os.getuid() + 1)
    real = Path.stat

    def owned_by_a_third(path, **how):
        found = real(path, **how)
        return os.stat_result((*found[:4], found.st_uid + 2, *found[5:10])) if path == shared else found

    monkeypatch.setattr(Path, "stat", owned_by_a_third)
    with pytest.raises(PermissionError, match="a link made by somebody else"):
        write_atomically(link, b"through theirs")
    assert target.read_bytes() == b"by my own link"


def test_a_backup_leaves_nothing_else_behind(tmp_path):
    path = tmp_path / "study.json"
    path.write_bytes(b"old")
    write_atomically(path, b"new", backup=True)
    assert sorted(each.name for each in tmp_path.iterdir()) == ["study.json", "study.json~"]


def test_a_pipe_is_written_to_and_not_replaced(tmp_path):
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    reader = os.open(pipe, os.O_RDONLY | os.O_NONBLOCK)
    write_atomically(pipe, b"through")
    assert os.read(reader, 100) == b"through"
    os.close(reader)
    assert stat.S_ISFIFO(pipe.stat().st_mode)


def test_a_full_device_is_a_clear_error_and_stays_a_device(tmp_path):
    full = full_device(tmp_path)
    with pytest.raises(OSError, match="No space"):
        write_atomically(full, b"x" * 100_000)
    assert stat.S_ISCHR(full.stat().st_mode)


def test_a_circular_link_is_a_clear_error(tmp_path):
    loop = tmp_path / "loop"
    loop.symlink_to(loop)
    with pytest.raises(OSError, match="symbolic links"):
        write_atomically(loop, b"new")


def test_private_files_are_readable_by_nobody_else(tmp_path):
    write_atomically(tmp_path / "kept.json", b"new", private=True)
    assert (tmp_path / "kept.json").stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize("path", ["/dev/zero", "/dev/null", "/"])
def test_only_regular_files_are_read(path):
    with pytest.raises(Refused, match="give the name of a file"):
        read_bytes(Path(path), 1000, "")


def test_the_group_of_the_old_file_is_kept(tmp_path, monkeypatch):
    """As if the old file were of group 77, since a user may be in one group only."""
    path, real, given = tmp_path / "a.json", Path.stat, []
    path.write_text("old")
    path.chmod(0o640)

    def of_that_group(each, **how):
        found = real(each, **how)
        return os.stat_result((*found[:5], 77, *found[6:])) if each == path else found

    with monkeypatch.context() as patched:
        patched.setattr(Path, "stat", of_that_group)
        patched.setattr(os, "chown", lambda _, *ids: given.append(ids))
        write_atomically(path, b"new")
    assert given == [(-1, 77)]
    assert path.stat().st_mode & 0o777 == 0o640
