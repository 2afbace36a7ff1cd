"""An object file of one compiled function, put into memory and linked, without LLVM, which takes 50 MB and a tenth of a
second.

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
    ("name", "<u4"), ("type", "<u4"), ("flags", "<u8"), ("address", "<u8"), ("offset", "<u8"), ("size", "<u8"), ("link",
    "<u4"), ("info", "<u4"),
    ("align", "<u8"), ("entry", "<u8"),
])  # fmt: skip
SYMBOL = np.dtype(
    [("name", "<u4"), ("info", "u1"), ("other", "u1"), ("section", "<u2"), ("value", "<u8"), ("size", "<u8")]
)
RELOCATION = np.dtype([("offset", "<u8"), ("type", "<u4"), ("symbol", "<u4"), ("addend", "<i8")])
PROGRAM_BITS, SYMBOLS, RELOCATIONS = 1, 2, 4
IN_MEMORY = 2
# Addresses of 64 bits: absolute, and from the place itself.
ABSOLUTE, RELATIVE = 1, 24
UNDEFINED = 0
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
    found = _ObjectFile(code, never_called)
    address = found.address_of(name)
    if address is None or not found.relocate() or not found.make_executable():
        return None
    return Linked(found.memory, address)


class _ObjectFile:
    """An object file whose sections lie in memory."""

    def __init__(self, code: bytes, never_called: tuple[str, ...]) -> None:
        self._code, self._never_called = code, never_called
        at, count = int.from_bytes(code[0x28:0x30], "little"), int.from_bytes(code[0x3C:0x3E], "little")
        self._sections = self._table(at, count, SECTION)
        self._places, size = _places(self._sections)
        self.memory = mmap.mmap(-1, max(size, 1), prot=mmap.PROT_READ | mmap.PROT_WRITE)
        for number, place in self._places.items():
            offset, length = int(self._sections[number]["offset"]), int(self._sections[number]["size"])
            self.memory[place : place + length] = code[offset : offset + length]
        self._base = ctypes.addressof(ctypes.c_char.from_buffer(self.memory))
        self._symbols, self._names = np.zeros(0, SYMBOL), 0
        for section in self._sections:
            if section["type"] == SYMBOLS:
                self._symbols = self._table(int(section["offset"]), int(section["size"]) // SYMBOL.itemsize, SYMBOL)
                self._names = int(self._sections[section["link"]]["offset"])

    def _table(self, offset: int, count: int, dtype: np.dtype[Any]) -> NDArray[Any]:
        return np.frombuffer(self._code, dtype, count, offset)

    def _name_of(self, symbol: Any) -> str:
        at = self._names + int(symbol["name"])
        return self._code[at : self._code.index(b"\0", at)].decode()

    def _value_of(self, symbol: Any) -> int | None:
        section = int(symbol["section"])
        if section in self._places:
            return self._base + self._places[section] + int(symbol["value"])
        return _outside(self._name_of(symbol), self._never_called) if section == UNDEFINED else None

    def address_of(self, name: str) -> int | None:
        return next((self._value_of(symbol) for symbol in self._symbols if self._name_of(symbol) == name), None)

    def relocate(self) -> bool:
        """Write all addresses; whether that could be done."""
        values: dict[int, int | None] = {}
        for section in self._sections:
            if section["type"] != RELOCATIONS or int(section["info"]) not in self._places:
                continue
            at, count = self._places[int(section["info"])], int(section["size"]) // RELOCATION.itemsize
            for relocation in self._table(int(section["offset"]), count, RELOCATION):
                number, place = int(relocation["symbol"]), at + int(relocation["offset"])
                if number not in values:
                    values[number] = self._value_of(self._symbols[number])
                value = values[number]
                if value is None or relocation["type"] not in (ABSOLUTE, RELATIVE):
                    return False
                written = value + int(relocation["addend"])
                written -= self._base + place if relocation["type"] == RELATIVE else 0
                self.memory[place : place + 8] = (written % 2**64).to_bytes(8, "little")
        return True

    def make_executable(self) -> bool:
        protect = ctypes.CDLL(None).mprotect
        return bool(protect(ctypes.c_void_p(self._base), ctypes.c_size_t(len(self.memory)), READ_AND_RUN) == 0)


def _places(sections: NDArray[Any]) -> tuple[dict[int, int], int]:
    """Where each section that is needed goes, by its number, and how much room they take."""
    places, size = {}, 0
    for number, section in enumerate(sections):
        if section["type"] == PROGRAM_BITS and section["flags"] & IN_MEMORY and section["size"]:
            align = max(1, int(section["align"]))
            places[number] = size = -(-size // align) * align
            size += int(section["size"])
    return places, size


def _outside(name: str, never_called: tuple[str, ...]) -> int | None:
    """The address of a function outside of the file."""
    for library in LIBRARIES:
        try:
            function = getattr(ctypes.CDLL(library), "abort" if name in never_called else name)
        except (OSError, AttributeError):
            continue
        return ctypes.cast(function, ctypes.c_void_p).value
    return None
