"""Public functions on arrays say shapes and units in sections, so that nobody has to guess."""

import inspect
import pkgutil
from importlib import import_module

import pytest

import orchesis

ARRAYS = ("NDArray", "Bands", "Curve", "Matrix", "Samples", "Levels", "Block")


def public_functions():
    for about in pkgutil.walk_packages(orchesis.__path__, "orchesis."):
        module = import_module(about.name)
        for name, made in vars(module).items():
            mine = inspect.isfunction(made) and made.__module__ == about.name
            if mine and not name.startswith("_") and made.__code__.co_argcount:
                yield pytest.param(made, id=f"{about.name}.{name}")


def takes_arrays(function):
    kinds = [str(one.annotation) for one in inspect.signature(function).parameters.values()]
    return any(word in kind for word in ARRAYS for kind in kinds)


@pytest.mark.parametrize("function", [p for p in public_functions() if takes_arrays(p.values[0])])
def test_what_takes_arrays_says_their_shapes(function):
    text = inspect.getdoc(function) or ""
    assert "Parameters\n----------" in text, "say what each argument is, with shape and unit"


@pytest.mark.parametrize("function", list(public_functions()))
def test_no_more_than_three_arguments_of_one_kind_are_told_apart_by_place_alone(function):
    places = [
        str(one.annotation)
        for one in inspect.signature(function).parameters.values()
        if one.kind is one.POSITIONAL_OR_KEYWORD
    ]
    assert all(places.count(kind) < 3 for kind in places), "make the later ones keyword-only"
