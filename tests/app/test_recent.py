"""What was used lately is kept, what was not makes way."""

from jete.app.recent import Recent


def test_what_was_not_used_for_longest_makes_way() -> None:
    kept: Recent[str, int] = Recent(2)
    kept.keep("a", 1)
    kept.keep("b", 2)
    assert kept.get("a") == 1
    kept.keep("c", 3)
    assert (kept.get("a"), kept.get("b"), kept.get("c")) == (1, None, 3)
    kept.clear()
    assert kept.get("a") is None
