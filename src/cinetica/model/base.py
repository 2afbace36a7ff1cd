"""The base class of everything that is read from a file: named, validated and immutable values."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class FrozenModel(BaseModel):
    """Immutable values, validated when they are created.

    Unknown keys, wrong types, NaN and infinity raise pydantic's ValidationError. `model_copy` returns a changed copy;
    `model_construct` skips the validation of values known to be valid.
    """

    model_config = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False, frozen=True)
