"""How each key of a criterion is judged."""

from .answers import by_hand, value
from .judge import Judging
from .outcomes import outcome
from .ports import address, carrying, clocking, disabled, enabled, up
from .routes import gateway, route
from .servers import dhcp, dns, forwarding, lease, resolver, rip
from .statements import about, absent, instance, name, same_statement, vlan
from .translations import translation

JUDGING: dict[str, Judging] = {
    "address": address,
    "enabled": enabled,
    "disabled": disabled,
    "up": up,
    "clocking": clocking,
    "access": carrying,
    "trunk": carrying,
    "route": route,
    "gateway": gateway,
    "translation": translation,
    "realm": same_statement,
    "setting": same_statement,
    "service": same_statement,
    "absent": absent,
    "name": name,
    "about": about,
    "vlan": vlan,
    "instance": instance,
    "resolver": resolver,
    "forwarding": forwarding,
    "lease": lease,
    "dhcp": dhcp,
    "rip": rip,
    "dns": dns,
    "manual": by_hand,
    "value": value,
    "ping": outcome,
    "check": outcome,
}
"""Each takes the judge, the criterion and the attempt."""
