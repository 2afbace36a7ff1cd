"""An object file of one compiled function, put into memory and linked, without LLVM, which takes 50 MB and a tenth of a second.

What LLVM writes for one function needs little: some sections side by side, and addresses written into them (System V
ABI, AMD64 supplement, section 4.4). Anything else is left to LLVM's own linker.
"""

from __future__ import annotations

import ctypes
import mmap
import platform
import sys
from typing import Any

import numpy as np
from numpy.typing import NDArray

SECTION = np.dtype([
    ("name", "<u4"), ("type", "<u4"), ("flags", "<u8"), ("address", "<u8"), ("offset", "<u8"), ("size", "<u8"), ("link", "<u4"), ("info", "<u4"),
    ("align", "<u8"), ("entry", "<u8"),
])  # fmt: skip
SYMBOL = np.dtype([("name", "<u4"), ("info", "u1"), ("other", "u1"), ("section", "<u2"), ("value", "<u8"), ("size", "<u8")])
RELOCATION = np.dtype([("offset", "<u8"), ("type", "<u4"), ("symbol", "<u4"), ("addend", "<i8")])
PROGRAM_BITS, SYMBOLS, RELOCATIONS = 1, 2, 4
IN_MEMORY = 2
# Addresses of 64 bits: absolute, and from the place itself.
ABSOLUTE, RELATIVE = 1, 24
UNDEFINED, NO_SECTION = 0, 0xFF00
READ_AND_RUN = 5
# Where functions are that compiled code calls. Python's own are in the process.
LIBRARIES = (None, "libm.so.6")


class Linked:
    """Machine code in memory; it is there for as long as this object is."""

    def __init__(self, memory: mmap.mmap, address: int) -> None:
        self.memory, self.address = memory, address


def linked(code: bytes, name: str, never_called: tuple[str, ...]) -> Linked | None:
    """The function `name` of an object file; None where this machine or the file asks for more than is done here.

    `never_called`: functions that are named and never called; should one be, the process ends.
    """
    if platform.machine() != "x86_64" or sys.byteorder != "little":
        return None
    sections = _table(code, int.from_bytes(code[0x28:0x30], "little"), int.from_bytes(code[0x3C:0x3E], "little"), SECTION)
    places, size = _places(sections)
    memory = mmap.mmap(-1, max(size, 1), prot=mmap.PROT_READ | mmap.PROT_WRITE)
    for number, place in places.items():
        offset, length = int(sections[number]["offset"]), int(sections[number]["size"])
        memory[place : place + length] = code[offset : offset + length]
    view = ctypes.c_char.from_buffer(memory)
    base = ctypes.addressof(view)
    del view
    table = next((section for section in sections if section["type"] == SYMBOLS), None)
    if table is None:
        return None
    symbols = _table(code, int(table["offset"]), int(table["size"]) // SYMBOL.itemsize, SYMBOL)
    names = int(sections[table["link"]]["offset"])
    found: dict[int, int] = {}

    def value_of(number: int) -> int | None:
        if number not in found:
            symbol = symbols[number]
            section = int(symbol["section"])
            if section in places:
                found[number] = base + places[section] + int(symbol["value"])
            elif section == UNDEFINED and (outside := _outside(_text(code, names + int(symbol["name"])), never_called)):
                found[number] = outside
            else:
                return None
        return found[number]

    for section in sections:
        if section["type"] != RELOCATIONS or int(section["info"]) not in places:
            continue
        at = places[int(section["info"])]
        for relocation in _table(code, int(section["offset"]), int(section["size"]) // RELOCATION.itemsize, RELOCATION):
            value, place = value_of(int(relocation["symbol"])), at + int(relocation["offset"])
            if value is None or relocation["type"] not in (ABSOLUTE, RELATIVE):
                return None
            written = value + int(relocation["addend"]) - (base + place if relocation["type"] == RELATIVE else 0)
            memory[place : place + 8] = (written % 2**64).to_bytes(8, "little")
    number = next((number for number, symbol in enumerate(symbols) if _text(code, names + int(symbol["name"])) == name), None)
    address = None if number is None else value_of(number)
    if address is None or ctypes.CDLL(None).mprotect(ctypes.c_void_p(base), ctypes.c_size_t(len(memory)), READ_AND_RUN) != 0:
        return None
    return Linked(memory, address)


def _table(code: bytes, offset: int, count: int, dtype: np.dtype[Any]) -> NDArray[Any]:
    return np.frombuffer(code, dtype, count, offset)


def _places(sections: NDArray[Any]) -> tuple[dict[int, int], int]:
    """Where each section that is needed goes, by its number, and how much room they take."""
    places, size = {}, 0
    for number, section in enumerate(sections):
        if section["type"] == PROGRAM_BITS and section["flags"] & IN_MEMORY and section["size"]:
            align = max(1, int(section["align"]))
            places[number] = size = -(-size // align) * align
            size += int(section["size"])
    return places, size


def _text(code: bytes, at: int) -> str:
    return code[at : code.index(b"\0", at)].decode()


def _outside(name: str, never_called: tuple[str, ...]) -> int | None:
    """The address of a function outside of the file."""
    for library in LIBRARIES:
        try:
            function = getattr(ctypes.CDLL(library), "abort" if name in never_called else name)
        except (OSError, AttributeError):
            continue
        return ctypes.cast(function, ctypes.c_void_p).value
    return None
