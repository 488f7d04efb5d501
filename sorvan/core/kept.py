"""What is worked out once and kept: with the value it belongs to, known by all that it was made of, and only the newest
few. So it goes when its owner goes, and nothing is ever given that was made of something else."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

Owner = TypeVar("Owner")
Made = TypeVar("Made")
Rest = ParamSpec("Rest")


def kept(
    most: int = 1,
) -> Callable[[Callable[Concatenate[Owner, Rest], Made]], Callable[Concatenate[Owner, Rest], Made]]:
    """Of a function of values that never change: its answers are kept with the first of them, the newest `most`, each by
    the others that it was made of. All that the answer depends on has to be among them."""

    def keeping(make: Callable[Concatenate[Owner, Rest], Made]) -> Callable[Concatenate[Owner, Rest], Made]:
        name = f"_kept {make.__module__}.{make.__qualname__}"

        @wraps(make)
        def found(owner: Owner, *args: Rest.args, **named: Rest.kwargs) -> Made:
            made_of = (*args, *named.values())
            answers: tuple[tuple[tuple[Any, ...], Made], ...] = owner.__dict__.get(name, ())
            for n, (known, answer) in enumerate(answers):
                if _same(known, made_of):
                    if n:
                        owner.__dict__[name] = ((known, answer), *answers[:n], *answers[n + 1 :])
                    return answer
            answer = make(owner, *args, **named)
            owner.__dict__[name] = ((made_of, answer), *owner.__dict__.get(name, ()))[:most]
            return answer

        return found  # type: ignore[return-value]

    return keeping


def _same(one: tuple[Any, ...], other: tuple[Any, ...]) -> bool:
    return len(one) == len(other) and all(a is b or a == b for a, b in zip(one, other, strict=True))
