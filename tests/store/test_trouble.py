"""What stands in the way of a database is said in a sentence, by what the database itself says."""

import pytest
from sqlalchemy.exc import OperationalError

from fairline.store.trouble import trouble


@pytest.mark.parametrize(
    ("said", "status", "told"),
    [
        ("database or disk is full", 507, "disk is full"),
        ("database is locked", 503, "Another program"),
        # PostgreSQL 15's own words, from memory
        ("canceling statement due to lock timeout", 503, "takes long"),
        ("connection failed: Connection refused", 503, "does not answer"),
        ("server closed the connection unexpectedly", 503, "does not answer"),
    ],
)
def test_what_a_database_says_is_told_in_a_sentence(said, status, told):
    found = trouble(OperationalError("", None, Exception(said)))
    assert found.status == status and told in found.words


def test_a_fault_of_ours_is_no_trouble_of_the_machine():
    assert trouble(OperationalError("", None, Exception("no such column: x"))) is None
