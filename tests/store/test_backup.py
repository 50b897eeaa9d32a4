"""Backups are whole, checked and put back; two servers, a newer database, a bad folder are told."""

import os
import sqlite3
import stat
import subprocess

import pytest

from fairline import cli
from fairline.core.readings import VacuumReading
from fairline.demo.jobs import bindery
from fairline.store import jobs
from fairline.store.backup import BackupError, backup, restore, verify
from fairline.store.database import NewerError, open_database
from fairline.store.revisions import HEAD, migrations
from tests.databases import SERVER
from tests.web.frame.test_server import FAIRLINE, free_port, server


def filled(folder, readings=0):
    """A database in use: what was committed last still lies in the log beside the file."""
    database = open_database(f"sqlite:///{folder}/fairline.db")
    with database.session() as session:
        job_id = jobs.import_job(session, bindery())
        run = jobs.begin_run(session, job_id, "pull", "I")
        session.commit()
        for n in range(readings):
            jobs.append_readings(session, job_id, run, [VacuumReading(seq=n, t_s=n, pa=30.0)])
            session.commit()
    return database, job_id


def test_a_backup_made_in_use_is_whole_and_comes_back(tmp_path):
    database, job_id = filled(tmp_path, 40)
    target = tmp_path / "out.db"
    assert backup(tmp_path / "fairline.db", target) == 1
    assert stat.S_IMODE(os.stat(target).st_mode) == 0o600
    assert verify(target) == (1, HEAD)
    with database.session() as session:
        jobs.remove(session, job_id)
        session.commit()
    database.close()
    count, aside = restore(target, tmp_path / "fairline.db")
    assert count == 1 and verify(aside)[0] == 0  # what was there is kept beside it
    again = open_database(f"sqlite:///{tmp_path}/fairline.db")
    with again.session() as session:
        (back,) = jobs.ids(session)
        assert len(jobs.load(session, back).job.runs[-1].readings) == 40
    again.close()


@pytest.mark.parametrize("log", [True, False])
def test_from_a_disk_that_cannot_be_written_a_backup_is_made_all_the_same(
    tmp_path, monkeypatch, log
):
    """SQLite then opens no database with a log: "attempt to write a readonly database"."""
    source = tmp_path / "disk"
    source.mkdir()
    database, _ = filled(source, 40)
    if not log:
        database.close()
    assert (source / "fairline.db-wal").exists() is log
    connect = sqlite3.connect

    def as_on_that_disk(name, **how):
        if str(source) in str(name):
            raise sqlite3.OperationalError("attempt to write a readonly database")
        return connect(name, **how)

    monkeypatch.setattr(sqlite3, "connect", as_on_that_disk)
    target = tmp_path / "out.db"
    assert backup(source / "fairline.db", target) == 1
    with connect(target) as opened:
        assert opened.execute("SELECT count(*) FROM reading WHERE pa = 30.0").fetchone() == (40,)
    assert sorted(f.name for f in tmp_path.iterdir()) == ["disk", "out.db"]
    database.close()


def test_a_backup_names_the_file_that_is_at_fault(tmp_path):
    broken = tmp_path / "broken.db"
    broken.write_bytes(b"SQLite format 3\0" + b"\x07" * 5000)
    with pytest.raises(BackupError, match=r"broken\.db cannot be read"):
        backup(broken, tmp_path / "out.db")
    database, _ = filled(tmp_path)
    with pytest.raises(BackupError, match=r"none/out\.db cannot be written"):
        backup(tmp_path / "fairline.db", tmp_path / "none" / "out.db")
    database.close()
    assert sorted(f.name for f in tmp_path.iterdir()) == ["broken.db", "fairline.db"]


def test_what_is_no_backup_is_refused_and_nothing_is_touched(tmp_path):
    database, _ = filled(tmp_path)
    database.close()
    before = (tmp_path / "fairline.db").read_bytes()
    rubbish, newer = tmp_path / "rubbish.db", tmp_path / "newer.db"
    rubbish.write_bytes(b"no database at all" * 100)
    backup(tmp_path / "fairline.db", newer)
    with sqlite3.connect(newer) as opened:
        opened.execute("UPDATE alembic_version SET version_num = '9999'")
    for file in (rubbish, newer, tmp_path / "none.db"):
        with pytest.raises(BackupError):
            restore(file, tmp_path / "fairline.db")
    with pytest.raises(BackupError, match="another file"):
        backup(tmp_path / "fairline.db", tmp_path / "fairline.db")
    assert (tmp_path / "fairline.db").read_bytes() == before
    newer.replace(tmp_path / "fairline.db")
    with pytest.raises(NewerError, match="newer Fair Line"):
        open_database(f"sqlite:///{tmp_path}/fairline.db")


def test_before_a_migration_a_backup_is_made_and_every_brief_after_it(tmp_path):
    from fairline.store.database import Database, migrate

    old = Database(f"sqlite:///{tmp_path}/fairline.db")
    migrate(old.engine, migrations()[-2])
    old.close()
    open_database(f"sqlite:///{tmp_path}/fairline.db").close()
    assert verify(tmp_path / f"fairline-before-{HEAD}.db") == (0, migrations()[-2])


@pytest.mark.skipif(bool(SERVER), reason="of a file of SQLite")
def test_the_commands_say_what_they_did_or_why_not(tmp_path, capsys):
    database, _ = filled(tmp_path)
    database.close()
    out, data = str(tmp_path / "b.db"), ["--data", str(tmp_path)]
    assert cli.main(["backup", out, *data]) == 0
    assert cli.main(["verify", out]) == 0
    assert cli.main(["restore", out, *data]) == 0
    assert cli.main(["board", *data]) == 0
    told = capsys.readouterr().out
    assert "1 jobs are in" in told and "it is sound" in told and "judged anew" in told
    assert cli.main(["restore", str(tmp_path / "none"), *data]) == 1
    assert "there is no file" in capsys.readouterr().err


def refused(*arguments):
    done = subprocess.run([FAIRLINE, *arguments], capture_output=True, text=True, timeout=60)
    return done.returncode, done.stderr.strip()


def test_a_second_server_on_a_folder_and_a_taken_port_are_refused_in_a_sentence(tmp_path):
    with server(tmp_path / "data") as (base, _):
        folder = ["--data", str(tmp_path / "data")]
        code, told = refused("serve", "--port", str(free_port()), *folder)
        assert (code, told.count("\n")) == (1, 0) and "Another Fair Line works in" in told
        code, told = refused("serve", "--port", base.rsplit(":", 1)[1], "--data", str(tmp_path))
        assert code == 1 and "is taken" in told
        assert refused("restore", str(tmp_path / "x.db"), *folder)[0] == 1
        code, told = refused("board", *folder)
        assert code == 1 and "Another Fair Line works in" in told
        modes = [stat.S_IMODE(os.stat(tmp_path / "data" / n).st_mode) for n in ("", "fairline.db")]
        assert modes == [0o700, 0o600]
    (tmp_path / "file").write_text("no folder")
    code, told = refused("serve", "--port", str(free_port()), "--data", str(tmp_path / "file"))
    assert code == 1 and "cannot be written" in told
