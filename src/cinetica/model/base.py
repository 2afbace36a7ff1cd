"""The base of everything that is read from a file: plain values under names, validated, and never changed."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class FrozenModel(BaseModel):
    """Values that are validated when they are made: unknown keys, wrong types, NaN and infinity are refused, by
    pydantic's ValidationError. `model_copy` gives a changed copy, `model_construct` takes what is known to be valid."""

    model_config = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False, frozen=True)
