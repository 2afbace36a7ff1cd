"""The base class of everything that is read from a file: named, validated and immutable values."""

from __future__ import annotations

from enum import StrEnum
from typing import Any

from pydantic import BaseModel, ConfigDict, GetCoreSchemaHandler
from pydantic_core import CoreSchema


class Choice(StrEnum):
    """One of several words; a model takes the word itself, too: `Clock(mode="fixed")`."""

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        schema = handler(source)
        schema["strict"] = False  # type: ignore[index]
        return schema


class FrozenModel(BaseModel):
    """Immutable values, validated when they are created.

    Unknown keys, wrong types, NaN and infinity raise pydantic's ValidationError. `model_copy` returns a changed copy;
    `model_construct` skips the validation of values known to be valid.
    """

    model_config = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False, frozen=True)
