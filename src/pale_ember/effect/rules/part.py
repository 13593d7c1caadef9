"""The frozen base of every part of an effect."""

from __future__ import annotations

import functools
from typing import Any

from pydantic import BaseModel, ConfigDict, ValidationInfo, field_validator
from pydantic_core import PydanticCustomError

from ..errors import EffectError
from .fields import Rule
from .reading import read_field


class Part(BaseModel):
    """A frozen model whose fields are read by the rules that they carry."""

    model_config = ConfigDict(
        frozen=True, extra="forbid", arbitrary_types_allowed=True, validate_default=False
    )

    @classmethod
    @functools.cache
    def rules(cls) -> dict[str, Rule]:
        """Return the rule of each field that has one, in model order."""
        found = {}
        for name, info in cls.model_fields.items():
            extra = info.json_schema_extra
            if isinstance(extra, dict) and "rule" in extra:
                found[name] = extra["rule"]
        return found  # type: ignore[return-value]

    @classmethod
    @functools.cache
    def default_of(cls, name: str) -> Any:
        """Return a field's default; always the same object, which nothing changes."""
        return cls.model_fields[name].get_default(call_default_factory=True)

    @field_validator("*", mode="before")
    @classmethod
    def _by_rule(cls, raw: Any, info: ValidationInfo) -> Any:
        rule = cls.rules().get(info.field_name or "")
        if rule is None:
            return raw
        try:
            return read_field(rule, raw)
        except EffectError as wrong:
            context = {"reason": wrong.reason, "place": wrong.place}
            raise PydanticCustomError("field", "{reason}", context) from None


def few(raw: object, most: int, what: str) -> object:
    """Return a list as it is, refusing one that is too long before its entries are read."""
    if isinstance(raw, list | tuple) and len(raw) > most:
        reason = f"{len(raw)} {what} are too many; at most {most} fit."
        raise PydanticCustomError("many", "{reason}", {"reason": reason})
    return raw
