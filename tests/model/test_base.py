"""The base class of everything that is read from a file."""

import copy
import pickle
from typing import Annotated, Self

import pytest
from pydantic import AfterValidator, Field, ValidationError, model_validator

from cinetica.files.shipped import shipped_study
from cinetica.model.base import FrozenModel
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.study import Study
from cinetica.model.take import Keys, Press, Take

STUDY = shipped_study("harbour")


def even(number: int) -> int:
    if number % 2:
        raise ValueError("it is odd")
    return number


class Part(FrozenModel):
    """A part."""

    size: Annotated[int, Field(ge=0, le=10), AfterValidator(even)] = 2
    name: Annotated[str, Field(min_length=1)] = "a"


class Whole(FrozenModel):
    parts: Annotated[tuple[Part, ...], Field(max_length=2)] = ()
    weight: float = 1
    names: dict[str, str] = Field(default_factory=dict)
    first: str

    @model_validator(mode="after")
    def _check(self) -> Self:
        if self.weight > len(self.parts):
            raise ValueError("too heavy")
        return self


def faults(make):
    with pytest.raises(ValidationError) as caught:
        make()
    return [(fault["type"], ".".join(map(str, fault["loc"]))) for fault in caught.value.errors()]


def test_values_are_validated_as_they_are_declared():
    assert faults(lambda: Part(size=11)) == [("less_than_equal", "size")]
    assert faults(lambda: Part(size=3)) == [("value_error", "size")]
    assert faults(lambda: Part(size=2.0)) == [("int_type", "size")]
    assert faults(lambda: Part(size="2")) == [("int_type", "size")]
    assert faults(lambda: Part(name="", colour=1)) == [("string_too_short", "name"), ("extra_forbidden", "colour")]
    assert faults(lambda: Whole(parts=(Part(),))) == [("missing", "first")]
    assert faults(Whole) == [("missing", "first")]
    assert faults(lambda: Whole(first="a", parts=(Part(),) * 3)) == [("too_long", "parts")]
    assert faults(lambda: Whole(first="a", weight=float("nan"))) == [("finite_number", "weight")]
    assert faults(lambda: Whole(first="a", weight=2, parts=(Part(),))) == [("value_error", "")]


def test_json_errors_name_their_place():
    text = '{"first": "a", "parts": [{"size": 4}, {"size": 5}], "names": {"a": 1}}'
    assert faults(lambda: Whole.model_validate_json(text)) == [
        ("value_error", "parts.1.size"),
        ("string_type", "names.a"),
    ]


def test_valid_values_are_not_copied():
    part = Part(size=4)
    whole = Whole(first="a", parts=(part,))
    assert whole.parts[0] is part
    assert Whole.model_validate(dict(whole)).parts[0] is part


def test_values_are_never_changed():
    part = Part(size=4)
    with pytest.raises(ValidationError):
        part.size = 6  # type: ignore[misc]
    with pytest.raises(ValidationError):
        del part.size
    with pytest.raises(ValidationError):
        part.other = 1  # type: ignore[attr-defined]
    assert part == Part(size=4)


def test_they_are_equal_by_their_values_and_kind():
    assert Part() == Part(size=2) != Part(size=4)
    assert Part() != Keys()
    assert len({Part(), Part(size=2), Part(size=4)}) == 2
    assert repr(Part()) == "Part(size=2, name='a')"
    assert dict(Part(size=6)) == {"size": 6, "name": "a"}


def test_a_copy_has_the_changed_fields_and_shares_the_rest():
    take = Take(keys=Keys(jump=(Press(1, 5),)))
    longer = take.model_copy(update={"length": 240})
    assert (longer.length, longer.keys, take.length) == (240, take.keys, 120)
    assert longer.keys is take.keys
    assert [name for name, _ in longer] == list(Take.model_fields)


@pytest.mark.parametrize("make", [lambda thing: pickle.loads(pickle.dumps(thing)), copy.copy, copy.deepcopy])
def test_copies_of_other_kinds_are_equal(make):
    again = make(STUDY)
    assert again == STUDY
    assert type(again) is Study
    assert again.model_dump_json() == STUDY.model_dump_json()


def test_unvalidated_construction_equals_validated():
    assert Part.model_construct(size=4) == Part(size=4)
    assert Whole.model_construct(first="a") == Whole(first="a", parts=(Part(),)).model_copy(update={"parts": ()})
    assert [name for name, _ in Whole.model_construct(first="a")] == list(Whole.model_fields)


def test_json_round_trip():
    whole = Whole(first="a", parts=(Part(size=4), Part(size=6)), weight=1.5, names={"b": "c"})
    assert Whole.model_validate_json(whole.model_dump_json()) == whole
    assert whole.model_dump(mode="json", exclude_defaults=True) == {
        "parts": [{"size": 4}, {"size": 6}], "weight": 1.5, "names": {"b": "c"}, "first": "a",
    }  # fmt: skip


def test_the_cache_drops_the_least_recently_used():
    """By identity, not by equality."""
    asked = []
    remembered = cached_by_identity(2)(lambda each: asked.append(each) or len(asked))
    one, two, three = [1], [2], [3]
    assert [remembered(each) for each in (one, two, one, two)] == [1, 2, 1, 2]
    assert [remembered(each) for each in (three, three, two, one, three)] == [3, 3, 2, 4, 3]
    assert remembered([3]) == 5
