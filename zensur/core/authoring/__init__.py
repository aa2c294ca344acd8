"""Working on a lab: every edit that an instructor makes, as a change of the lab file's text, and what is shown of it.

The text is the one state. An edit takes a draft and returns another, of which nothing is different but what was meant;
comments and order stay.
"""
