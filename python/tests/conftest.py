"""What the tests share."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest

DEMO = Path(__file__).parents[2] / "crates/washout/demo"


@pytest.fixture(scope="session")
def demo() -> Path:
    """The demo data of the command: a light station's books."""
    return DEMO


@pytest.fixture(scope="session")
def command() -> str:
    """The command `washout`, which comes with the wheel."""
    import shutil
    import sysconfig

    found = Path(sysconfig.get_path("scripts")) / "washout"
    path = str(found) if found.exists() else shutil.which("washout")
    if path is None:
        pytest.fail("the tests compare with the command `washout`, which is not here; python/build makes a wheel with it")
    return path


def cleaned_by(command: str, rules: Path, file: Path) -> bytes:
    """What the command makes of a file."""
    words = [command, "clean", "-r", str(rules), "--stdout", str(file)]
    return subprocess.run(words, check=False, capture_output=True).stdout
