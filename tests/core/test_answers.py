"""Questions that learners answer, and what is marked by hand."""

import pytest

from tests.core.test_criteria import lab_with
from tests.helpers import paper_of
from zensur.core.formats import ANSWERS, File, read_answers, sort_papers
from zensur.core.lab import read_lab
from zensur.core.marking.checking.lab_check import check_lab
from zensur.core.marking.criteria.answers import same
from zensur.core.marking.marker import Marker
from zensur.demo import lab_text
from zensur.pages.hand_out import hand_out_page
from zensur.work.papers import read_paper


@pytest.mark.parametrize(
    ("one", "other", "equal"),
    [
        ("255.255.255.192", "/26", True),
        ("255.255.255.192", "255.255.255.128", False),
        ("255.255.255.192", "26", True),
        ("/26", "27", False),
        ("62", "62 hosts", True),
        ("62", "62 or 64", False),
        ("nan", "inf", False),
        ("10.64.8.0/26", "10.64.8.0 mask 255.255.255.192", True),
        ("10.64.8.0/26", "10.64.8.0 255.255.255.192", True),
        ("10.64.8.0/26", "10.64.8.0 / 26", True),
        ("10.64.8.0/26", "10.64.8.64/26", False),
        ("2001:db8::1", "2001:0DB8:0:0::1", True),
        ("1022", "1 022", True),
        ("1022", "1022.0", True),
        ("1022", "1024", False),
        ("the lock", "The  lock.", True),
        ("the lock", "the quay", False),
        ("10.64.8.1", "10.64.8.01", False),
    ],
)
def test_two_answers_that_mean_the_same_are_the_same(one: str, other: str, equal: bool) -> None:
    assert same(one, other) is equal


def test_answers_are_read_line_by_line() -> None:
    found = read_answers(
        b"# mine\r\nMask of the basin?: /26\r\nhow many hosts:62\nno answer here\nWhich: way: 2001:db8::1\n: x\n\xff"
    )
    assert {q: (a.texts, a.where.line) for q, a in found.found.items()} == {
        "mask of the basin": (("/26",), 2),
        "how many hosts": (("62",), 3),
        "which: way": (("2001:db8::1",), 5),
    }
    assert [r.partition(":")[0] for r in found.remarks] == [f"answers, line {n}" for n in (4, 6, 7)]


def test_a_question_that_is_answered_twice_is_not_answered() -> None:
    lab = lab_with({"value": "Mask of the crew", "is": "255.255.255.0", "marks": 2})
    marker = Marker(lab)

    def answered(text: bytes) -> tuple[float, str]:
        (criterion,) = marker.mark(read_paper("0417", {ANSWERS: ("answers", text)})).criteria
        return criterion.fraction, criterion.found

    assert answered(b"Mask of the crew: /24\nmask of the crew?: /25\n") == (0, "answered twice: /24; /25")
    assert answered(b"Mask of the crew: /24\nmask of the crew?: /24\n") == (1, "/24")


def test_a_question_and_a_mark_by_hand_count_in_the_same_total() -> None:
    lab = lab_with(
        {"value": "Mask of the crew", "is": "255.255.255.0", "marks": 2},
        {"value": "Who clocks?", "is": "weir", "accept": ["the weir"]},
        {"manual": "The drawing is tidy", "marks": 3},
        {"realm": "weir:s1"},
    )
    assert check_lab(lab).errors == ()
    marker = Marker(lab)
    files = {d: (f"{d}.sheet", s.text.encode()) for d, s in lab.answer.items()}
    answers = b"mask of the crew: /24\nwho clocks: The Weir\n"
    result = marker.mark(read_paper("0417", {**files, ANSWERS: ("answers.txt", answers)}))
    assert [(c.id, c.fraction) for c in result.criteria] == [
        ("value:Mask of the crew", 1), ("value:Who clocks?", 1), ("manual:The drawing is tidy", 0), ("realm:weir:s1", 1),
    ]  # fmt: skip
    assert (result.score, result.out_of) == (4, 7)
    assert [(w.file, w.line) for w in result.criteria[1].lines] == [("answers.txt", 2)]
    wrong = marker.mark(read_paper("0417", {**files, ANSWERS: ("answers", b"Who clocks?: quay")}))
    assert [c.found for c in wrong.criteria][:2] == ["no answer", "quay"]
    assert wrong.score == 1
    assert [(f.slip, f.line, f.direct, f.said) for f in wrong.faults] == [
        ("answer-missing", None, 2, "Mask of the crew is not answered."),
        ("answer-wrong", 1, 1, "Who clocks?: quay is not right."),
    ]
    paper = read_paper("0417", {**files, ANSWERS: ("answers", b"Who clocks?: quay")})
    assert [marker.mended(paper, fault).score for fault in wrong.faults] == [3, 2]
    assert marker.mark(paper_of(lab, dict.fromkeys(lab.devices, ""))).score == 0


@pytest.mark.parametrize(
    ("criterion", "says"),
    [
        ("{value: How many, marks: 2}", "needs its answer"),
        ("{manual: ' '}", "says what is meant"),
        ("{manual: It is tidy, is: yes}", "is goes with value only"),
        ("{ping: '1', accept: [x]}", "There is no statement behind"),
    ],
)
def test_what_may_not_be_asked_so(criterion: str, says: str) -> None:
    text = lab_text("four-gates").replace(
        "  tasks:\n", f"  tasks:\n    - title: Words\n      criteria: [{criterion}]\n", 1
    )
    read = read_lab(text)
    assert read.lab is None
    assert says in str(read.errors[0])


def test_the_file_of_answers_belongs_to_a_paper_unless_a_device_is_called_so() -> None:
    files = [File("0417/weir.sheet", b""), File("0417/Answers.txt", b"q: 1")]
    (paper,) = sort_papers(files, ["weir"], "class.zip")
    assert {d: f.path for d, f in paper.files.items()} == {"weir": "weir.sheet", ANSWERS: "Answers.txt"}
    assert paper.remarks == ()
    (paper,) = sort_papers(files, ["weir", "answers"], "class.zip")
    assert set(paper.files) == {"weir", "answers"}


def test_the_page_for_learners_has_the_questions_and_not_the_answers() -> None:
    lab = lab_with({"value": "Mask of the <crew>", "is": "255.255.255.224"})
    page = hand_out_page(lab)
    assert "Mask of the &lt;crew&gt;" in page
    assert "255.255.255.224" not in page
