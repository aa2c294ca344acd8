"""A demo lab as a file, and its class as an archive."""

import zipfile
from pathlib import Path

import pytest

from zensur.core.lab import read_lab
from zensur.demo import demo_papers, lab_text


@pytest.fixture
def lab(tmp_path: Path) -> Path:
    path = tmp_path / "ring.lab.yaml"
    path.write_text(lab_text("four-gates"), "utf-8")
    return path


@pytest.fixture
def class_zip(tmp_path: Path) -> Path:
    read = read_lab(lab_text("four-gates")).lab
    assert read is not None
    path = tmp_path / "class.zip"
    with zipfile.ZipFile(path, "w") as archive:
        for paper in demo_papers("four-gates", read):
            for file in paper.files.values():
                archive.writestr(f"{paper.learner}/{file.path}", file.content)
    return path
