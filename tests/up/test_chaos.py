"""The whole shop in a minute of trouble: kills, pauses, stalls, a full disk, dropped connections."""

import pytest
from bench.chaos import chaos


@pytest.mark.long
@pytest.mark.slow
def test_a_minute_of_trouble_spoils_no_sheet(capfd: pytest.CaptureFixture[str]) -> None:
    violations = next(iter(chaos(minutes=1, seed=4)))
    printed = capfd.readouterr().out
    assert violations.ours == 0, printed
    # Trouble was made, and people got work done in it.
    assert "done: {'" in printed
    assert violations.baseline > 1
