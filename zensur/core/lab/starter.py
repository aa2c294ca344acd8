"""A starter lab: small, complete, and passing its own check, to be changed into the instructor's."""

_STARTER = """\
zensur: 1
id: {id}
title: {title}
brief: |
  Two routers join two networks. Give the ports their addresses, turn them on, and add the routes.
topics: [addresses, static routes]
devices:
  weir: {{kind: router, ports: [p1, p2]}}
  quay: {{kind: router, ports: [p1, p2]}}
  gauge: {{kind: host}}
  crane: {{kind: host}}
links:
  - weir:p1 -- gauge:p1
  - weir:p2 -- quay:p2
  - quay:p1 -- crane:p1
networks:
  upper reach: {{prefix: 10.64.16.0/24}}
  cut: {{prefix: 10.64.0.0/30}}
  quayside: {{prefix: 10.64.40.0/24}}
given:
  gauge: |
    port p1
      address 10.64.16.20/24
    gateway 10.64.16.1
  crane: |
    port p1
      address 10.64.40.20/24
    gateway 10.64.40.1
answer:
  weir: |
    port p1
      address 10.64.16.1/24
      on
    port p2
      address 10.64.0.1/30
      on
    route 10.64.40.0/24 via 10.64.0.2
  quay: |
    port p1
      address 10.64.40.1/24
      on
    port p2
      address 10.64.0.2/30
      on
    route 10.64.16.0/24 via 10.64.0.1
pings:
  - {{from: gauge, to: weir, expect: reply, shown: true}}
  - {{from: gauge, to: crane, expect: reply, shown: true}}
  - {{from: crane, to: gauge, expect: reply}}
"""


_EMPTY = """zensur: 1
id: {id}
title: {title}
devices: {{}}
"""


def empty_lab(ident: str, title: str) -> str:
    """Return the text of a lab with nothing in it yet; ``ident`` has to be a lab's id."""
    return _EMPTY.format(id=ident, title=_written(title))


def starter_lab(ident: str, title: str) -> str:
    """Return the text of a starter lab; ``ident`` has to be a lab's id."""
    return _STARTER.format(id=ident, title=_written(title))


def _written(title: str) -> str:
    quoted = '"' + title.replace("\\", "\\\\").replace('"', '\\"') + '"'
    plain = title and title.replace(" ", "").isalnum() and title[0].isalpha()
    return title if plain else quoted
