"""The weave: a lab as a chart of devices against networks, worked out from links and addresses."""

from .chart import Column, Knot, Loopback, Row, Weave, weave

__all__ = ["Column", "Knot", "Loopback", "Row", "Weave", "weave"]
