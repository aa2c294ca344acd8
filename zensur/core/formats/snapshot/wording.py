"""Rules that are not understood, and rules in words."""

from typing import Any


class NotUnderstood(ValueError):
    """A rule that is not in the listed set; ``str()`` says what of it."""


def words_of(told: Any) -> str:
    """Write a rule in words, so that it is known again."""
    if isinstance(told, list):
        return " ".join(filter(None, map(words_of, told)))
    if not isinstance(told, dict):
        return "" if told is None else str(told)
    if "match" in told and isinstance(told["match"], dict):
        match = told["match"]
        op = "!= " if match.get("op") == "!=" else ""
        return f"{words_of(match.get('left'))} {op}{words_of(match.get('right'))}"
    if "meta" in told:
        return words_of(told["meta"].get("key") if isinstance(told["meta"], dict) else told["meta"])
    if "payload" in told and isinstance(told["payload"], dict):
        return f"{told['payload'].get('protocol')} {told['payload'].get('field')}"
    if "prefix" in told and isinstance(told["prefix"], dict):
        return f"{told['prefix'].get('addr')}/{told['prefix'].get('len')}"
    if "range" in told and isinstance(told["range"], list):
        return "-".join(map(words_of, told["range"]))
    if "set" in told:
        return "{ " + words_of(told["set"]) + " }"
    if isinstance(told.get("map"), dict):
        return f"{words_of(told['map'].get('key'))} map {words_of(told['map'].get('data'))}"
    if isinstance(told.get("concat"), list):
        return " . ".join(map(words_of, told["concat"]))
    return " ".join(
        f"{key} {words_of(value)}".strip() for key, value in told.items() if key not in ("family", "flags")
    )
