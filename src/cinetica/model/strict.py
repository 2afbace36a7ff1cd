"""What everything is made of that is read from a file: plain values under names, validated, and never changed.

`Strict` has the methods of pydantic's `BaseModel` under their names, and pydantic does the work. But it is loaded, and
told what the fields are, only when something is first validated or written, which takes a fifth of a start: what is
known to be valid is put together without it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Self, dataclass_transform, get_type_hints

if TYPE_CHECKING:
    from pydantic import GetCoreSchemaHandler, TypeAdapter
    from pydantic_core import CoreSchema

MISSING: Any = object()


class Limits:
    """In an annotation: what a value must be, in the words of pydantic's core (`ge`, `le`, `min_length`, `max_length`,
    `pattern`, `fail_fast`)."""

    def __init__(self, **limits: Any) -> None:
        self.limits = limits

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        schema: Any = handler(source)
        return {**schema, **self.limits}


class After:
    """In an annotation: a function that a value goes through once it is of its type; it may refuse by a ValueError."""

    def __init__(self, function: Callable[[Any], Any]) -> None:
        self.function = function

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        from pydantic_core.core_schema import no_info_after_validator_function

        return no_info_after_validator_function(self.function, handler(source))


class Field:
    """A field with more to it than a type and a default. `told`: what a JSON Schema says of it. `declared`: what others
    keep with it."""

    def __init__(
        self, default: Any, *, limits: Mapping[str, Any] | None = None, told: Mapping[str, Any] | None = None,
        declared: Mapping[str, Any] | None = None,
    ) -> None:  # fmt: skip
        self.default, self.limits, self.told, self.declared = default, limits or {}, told or {}, declared


def field(*, default: Any) -> Any:
    """A default that a type checker would not let stand by itself."""
    return Field(default)


@dataclass_transform(kw_only_default=True, frozen_default=True, field_specifiers=(field,))
class Strict:
    """Base of everything that is read from a file: unknown keys, wrong types, NaN and infinity are refused, by
    pydantic's ValidationError. What is made of other values than the defaults is validated."""

    # As pydantic's core fills them.
    __slots__ = ("__dict__", "__pydantic_extra__", "__pydantic_fields_set__", "__pydantic_private__")
    model_fields: ClassVar[Mapping[str, Field]] = {}
    model_config: ClassVar[Mapping[str, Any]] = {"strict": True, "extra": "forbid", "allow_inf_nan": False}
    _defaults: ClassVar[Mapping[str, Any]] = {}

    def __init_subclass__(cls) -> None:
        fields = {}
        for name in cls.__annotations__:
            default = cls.__dict__.get(name, MISSING)
            fields[name] = default if isinstance(default, Field) else Field(default)
            if default is not MISSING:
                delattr(cls, name)
        cls.model_fields = fields
        cls._defaults = {name: each.default for name, each in fields.items()}

    def __init__(self, **content: Any) -> None:
        if content or MISSING in self._defaults.values():
            _set_content(self, vars(self.model_validate(content)))
        else:
            _set_content(self, dict(self._defaults))

    @classmethod
    def known(cls, **content: Any) -> Self:
        """Made of what is known to be valid."""
        made = object.__new__(cls)
        _set_content(made, {**cls._defaults, **content})
        return made

    def _check(self) -> None:
        """Whatever concerns several fields; ValueError where they do not go together."""

    # As values

    def __setattr__(self, name: str, value: object) -> None:
        raise AttributeError(f"{type(self).__name__} is never changed; model_copy gives another one")

    def __delattr__(self, name: str) -> None:
        raise AttributeError(f"{type(self).__name__} is never changed; model_copy gives another one")

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, type(self)):
            return NotImplemented
        return self is other or vars(self) == vars(other)

    def __hash__(self) -> int:
        return hash((type(self), *vars(self).values()))

    def __iter__(self) -> Iterator[tuple[str, Any]]:
        """Names and values, in the order of declaration."""
        yield from vars(self).items()

    def __repr__(self) -> str:
        return f"{type(self).__name__}({', '.join(f'{name}={value!r}' for name, value in self)})"

    def __getstate__(self) -> dict[str, Any]:
        return vars(self)

    def __setstate__(self, content: dict[str, Any]) -> None:
        _set_content(self, dict(content))

    def model_copy(self, *, update: Mapping[str, Any]) -> Self:
        """A copy with other values, which are not validated."""
        copy = object.__new__(type(self))
        _set_content(copy, {**vars(self), **update})
        return copy

    # By pydantic

    @classmethod
    def model_validate(cls, content: Any) -> Self:
        made: Self = adapter(cls).validate_python(content)
        return made

    @classmethod
    def model_validate_json(cls, text: str | bytes) -> Self:
        made: Self = adapter(cls).validate_json(text)
        return made

    def model_dump(self, **how: Any) -> dict[str, Any]:
        """As a dict; `how` as of pydantic's."""
        made: dict[str, Any] = adapter(type(self)).dump_python(self, **how)
        return made

    def model_dump_json(self, **how: Any) -> str:
        return adapter(type(self)).dump_json(self, **how).decode()

    @classmethod
    def model_json_schema(cls) -> dict[str, Any]:
        return adapter(cls).json_schema()

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        from pydantic_core import core_schema as core

        hints = get_type_hints(cls, include_extras=True)
        fields = {}
        for name, each in cls.model_fields.items():
            schema = handler.generate_schema(Annotated[hints[name], Limits(**each.limits)])
            if each.default is not MISSING:
                schema = core.with_default_schema(schema, default=each.default)
            told: Any = {"pydantic_js_updates": dict(each.told)} if each.told else None
            fields[name] = core.model_field(schema, metadata=told)
        whole = core.model_schema(
            cls,
            core.model_fields_schema(fields, model_name=cls.__name__),
            config=core.CoreConfig(
                title=cls.__name__,
                strict=True,
                extra_fields_behavior="forbid",
                allow_inf_nan=False,
            ),
            ref=f"{cls.__module__}.{cls.__qualname__}:{id(cls)}",
        )
        if cls._check is Strict._check:
            return whole
        return core.no_info_after_validator_function(_checked, whole)


def _checked(made: Strict) -> Strict:
    made._check()
    return made


# Past `__setattr__`.
_put = object.__setattr__


def _set_content(made: Strict, content: dict[str, Any]) -> None:
    _put(made, "__dict__", content)


_adapters: dict[Any, TypeAdapter[Any]] = {}


def adapter(kind: Any) -> TypeAdapter[Any]:
    """What validates and writes a type, made when it is first asked for."""
    found = _adapters.get(kind)
    if found is None:
        from pydantic import TypeAdapter

        found = _adapters[kind] = TypeAdapter(kind)
    return found
