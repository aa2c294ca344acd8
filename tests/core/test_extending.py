"""What CONTRIBUTING says of adding a statement, a criterion and a slip is done to a copy of the core, and holds."""

import re
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]
TRY = '''
from zensur.core.lab import read_lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.paper import Paper
from zensur.core.marking.slips.catalogue import slips_in
from zensur.core.sheet import read_sheet
text = """
zensur: 1
id: one
devices: {weir: {kind: router, ports: [p1]}}
answer:
  weir: |
    port p1
      address 10.1.0.1/24
      on
      mtu 1400
"""
lab = read_lab(text).lab
paper = Paper("x", {"weir": read_sheet("port p1\\n  address 10.1.0.1/24\\n  on\\n  mtu 1500\\n")})
result = Marker(lab).mark(paper)
print([(c.id, c.required, c.found, c.fraction) for c in result.criteria if c.key == "mtu"])
print([(f.slip, f.repair) for f in result.faults])
print([made.what for made in slips_in(lab) if "mtu-wrong" in made.slips])
'''


def test_a_statement_a_criterion_and_a_slip_are_added_as_contributing_says(tmp_path: Path) -> None:
    diffs = re.findall(r"```diff\n(.*?)```", (ROOT / "CONTRIBUTING.md").read_text("utf-8"), re.DOTALL)
    shutil.copytree(ROOT / "zensur" / "core", tmp_path / "zensur" / "core")
    shutil.copy(ROOT / "zensur" / "__init__.py", tmp_path / "zensur")

    def after(diff: str) -> str:
        subprocess.run(["git", "apply", "-"], input=diff, text=True, check=True, cwd=tmp_path)
        done = subprocess.run(
            [sys.executable, "-c", TRY], capture_output=True, text=True, check=False, cwd=tmp_path
        )  # fmt: skip
        return done.stdout or done.stderr

    statement, criterion, slip = map(after, diffs)
    assert "NotCounted: Mtu (mtu) is counted by no criterion" in statement
    assert criterion.split("\n")[:2] == [
        "[('mtu:weir:p1', 'mtu 1400', 'mtu 1500', 0.0)]",
        "[('setting-wrong', 'mtu 1400')]",
    ]
    assert slip.split("\n")[1:3] == ["[('mtu-wrong', 'mtu 1400')]", "['mtu: left out', 'mtu: another value']"]
