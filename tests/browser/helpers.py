"""What tests in the browser share."""

import io
import zipfile
from pathlib import Path

from playwright.sync_api import FilePayload, Locator, Page

from zensur.core.lab import read_lab
from zensur.demo import demo_papers, lab_text

AXE = (Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text("utf-8")

TOLL_HOUSE = (Path(__file__).parents[1] / "labs" / "toll-house.lab.yaml").read_text("utf-8")


def class_zip(name: str, **more: bytes) -> FilePayload:
    lab = read_lab(lab_text(name)).lab
    assert lab is not None
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        for paper in demo_papers(name, lab)[:2]:
            for file in paper.files.values():
                archive.writestr(f"New {paper.learner}/{file.path}", file.content)
        for path, content in more.items():
            archive.writestr(path, content)
    return payload("class.zip", stream.getvalue())


def payload(name: str, content: bytes) -> FilePayload:
    kind = "application/zip" if name.endswith(".zip") else "text/plain"
    return {"name": name, "mimeType": kind, "buffer": content}


def heading(page: Page) -> Locator:
    return page.get_by_role("heading", level=1)


def violations(page: Page) -> list[list[str]]:
    """Return what axe finds wrong on a page: rule, what it asks for, and where."""
    page.evaluate(AXE)
    found: list[list[str]] = page.evaluate(
        """axe.run({resultTypes: ["violations"]}).then(({violations}) => violations.map(
            v => [v.id, v.help, v.nodes.slice(0, 3).map(n => n.html.slice(0, 120))]))"""
    )
    return found


def put_text(page: Page, text: str) -> None:
    """Replace the whole text in the editor, as pasting over it does."""
    page.locator(".cm-content").click()
    page.keyboard.press("Control+a")
    page.evaluate(
        """text => {
            const clipboardData = new DataTransfer();
            clipboardData.setData("text/plain", text);
            const paste = new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true });
            document.querySelector(".cm-content").dispatchEvent(paste);
        }""",
        text,
    )


def settled(page: Page) -> None:
    """Wait until nothing is on its way."""
    page.wait_for_load_state("networkidle")
