"""Pings and service checks as a lab asks for them, and what everybody knows after them."""
