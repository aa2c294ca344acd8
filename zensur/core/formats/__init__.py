"""Other ways in and out: papers as archives and folders, and the learner's edition of a lab."""

from .answers import ANSWERS, Answer, Answers, plain, read_answers
from .archives import BadArchive, File, is_archive, read_archive
from .cabling import CABLING, CABLING_FILE, CableLine, Cabling, cabling_of, read_cabling
from .configurations import SUFFIXES, WRITTEN, form_of, looks_like, read_configurations, write_configuration
from .file_names import folded, plain_name
from .flat import BadPattern, FlatNames, Pattern
from .hand_out import given_sheets, learners_edition, shown_prefixes, targets
from .papers import HandIn, nothing_named, sort_papers
from .plan_csv import plan_csv
from .spreadsheet import harmless
from .topology_json import NoTopology, is_json, lab_of_topology, topology_json

__all__ = [
    "ANSWERS",
    "CABLING",
    "CABLING_FILE",
    "SUFFIXES",
    "WRITTEN",
    "Answer",
    "Answers",
    "BadArchive",
    "BadPattern",
    "CableLine",
    "Cabling",
    "File",
    "FlatNames",
    "HandIn",
    "NoTopology",
    "Pattern",
    "cabling_of",
    "folded",
    "form_of",
    "given_sheets",
    "harmless",
    "is_archive",
    "is_json",
    "lab_of_topology",
    "learners_edition",
    "looks_like",
    "nothing_named",
    "plain",
    "plain_name",
    "plan_csv",
    "read_answers",
    "read_archive",
    "read_cabling",
    "read_configurations",
    "shown_prefixes",
    "sort_papers",
    "targets",
    "topology_json",
    "write_configuration",
]
