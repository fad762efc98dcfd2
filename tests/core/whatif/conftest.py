"""The stint is driven once."""

import pytest

from whatif_stint import Stint, driven_stint


@pytest.fixture(scope="session")
def stint() -> Stint:
    return driven_stint()
