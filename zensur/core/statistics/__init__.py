"""What a class did not understand: figures of its results. Pure; NumPy and SciPy do the sums.

What counts are the marks that are charged: what a mistake only entails counts as earned.
"""

from .alike import Pair, alike_pairs
from .beside import Across, Beside, Term, beside
from .borrowed import Borrowed, borrowed
from .charged import Charged, charged
from .clusters import Cluster, clusters
from .columns import COLUMNS, USUAL, Entrant, results_csv, results_json
from .distribution import Distribution, distribution
from .items import Item, Reliability, items, reliability
from .slips import SlipCount, slip_counts
from .understood import Understood, understood

__all__ = [
    "COLUMNS",
    "USUAL",
    "Across",
    "Beside",
    "Borrowed",
    "Charged",
    "Cluster",
    "Distribution",
    "Entrant",
    "Item",
    "Pair",
    "Reliability",
    "SlipCount",
    "Term",
    "Understood",
    "alike_pairs",
    "beside",
    "borrowed",
    "charged",
    "clusters",
    "distribution",
    "items",
    "reliability",
    "results_csv",
    "results_json",
    "slip_counts",
    "understood",
]
