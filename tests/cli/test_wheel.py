"""The wheel holds all that running needs: installed into an empty environment, it serves the demo."""

import json
import re
import shutil
import subprocess
import sys
import urllib.request
import venv
from pathlib import Path

import zensur
from tests.serving import serving

ROOT = Path(__file__).parent.parent.parent


def test_the_wheel_serves_the_demo_from_an_empty_environment(tmp_path: Path) -> None:
    source, place = tmp_path / "source", tmp_path / "place"
    leave = shutil.ignore_patterns("__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "zensur", source / "zensur", ignore=leave)
    for name in ("pyproject.toml", "LICENSE"):
        shutil.copy(ROOT / name, source)
    pip = [sys.executable, "-m", "pip", "--quiet", "--disable-pip-version-check"]
    subprocess.run([*pip, "wheel", "--no-deps", "-w", str(tmp_path), str(source)], check=True)
    (wheel,) = tmp_path.glob("*.whl")
    assert wheel.name == f"zensur-{zensur.__version__}-py3-none-any.whl"
    venv.create(place, with_pip=True)
    constraints = ["-c", str(ROOT / "constraints.txt")]
    install = [
        str(place / "bin" / "python"),
        "-m",
        "pip",
        "install",
        "--quiet",
        "--disable-pip-version-check",
    ]
    subprocess.run([*install, *constraints, str(wheel)], check=True)
    tool = str(place / "bin" / "zensur")
    version = subprocess.run([tool, "--version"], check=True, capture_output=True, text=True, cwd=tmp_path)
    assert zensur.__version__ in version.stdout
    with serving([tool], "demo", tmp_path / "demo.db") as (_, port):

        def read(path: str) -> str:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/{path}") as answer:
                return str(answer.read().decode())

        page = read("")
        for asset in re.findall(r'(?:src|href)="/(assets/[^"]+)"', page):
            assert len(read(asset)) > 1_000
        assert 'name="csrf-token"' in page
        demo_labs = list((ROOT / "zensur/demo/labs").glob("*.lab.yaml"))
        assert len(json.loads(read("api/labs"))["labs"]) == len(demo_labs)
        assert "weir" in read("hand-out/first-addresses")
        paper = json.loads(read("api/papers/1"))
        while paper["result"] is None:  # it is marked by a process of the environment's own
            assert paper["failure"] is None
            paper = json.loads(read("api/papers/1"))
        assert paper["result"]["out_of"] == 45
