"""The keys of criteria: what may be asked, how it is read, what it counts, and how it is judged; each in one place."""

from ...lab import CriterionKey
from .answers import ANSWERS
from .cables import CABLES
from .outcomes import OUTCOMES
from .ports import PORTS
from .routes import ROUTES
from .servers import SERVERS
from .statements import STATEMENTS
from .translations import TRANSLATIONS

ALL: tuple[CriterionKey, ...] = (
    *PORTS, *ROUTES, *TRANSLATIONS, *SERVERS, *STATEMENTS, *CABLES, *ANSWERS, *OUTCOMES,
)  # fmt: skip
"""Every key."""
