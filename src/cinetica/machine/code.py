"""A compiled function as machine code that is loaded without the compiler.

Importing Numba takes longer than everything else at a start. So a function is compiled once into an object file behind
a plain C interface, and a start only has LLVM link that file.
"""

from __future__ import annotations

import ctypes
import fcntl
import hashlib
import os
import sys
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import llvmlite.binding as llvm
from numpy.typing import NDArray

from cinetica.machine.cache import cache_folder, is_ours, other_folder, remove_earlier

# Runtime functions that Numba's wrapper names for errors that compiled code here cannot raise. Should one be called all
# the same, the process ends at once instead of going on with wrong numbers.
NEVER_CALLED = (
    "NRT_MemInfo_call_dtor", "NRT_Free", "numba_gil_ensure", "numba_gil_release", "numba_unpickle", "numba_do_raise",
    "numba_runtime_build_excinfo_struct",
)  # fmt: skip
# Python frames; the default of 1,000 is too few for figures that call figures.
DEEPEST = 10_000
POINTER, COUNT, NUMBER = ctypes.c_void_p, ctypes.c_int64, ctypes.c_double


def pointer(array: NDArray[Any]) -> ctypes.c_void_p:
    """An array as an argument of compiled code, which it must outlive. ValueError if it is not contiguous."""
    if not array.flags.c_contiguous:
        raise ValueError("compiled code takes contiguous arrays only")
    return POINTER(array.ctypes.data)


def uncompiled() -> bool:
    """Whether functions run as plain Python."""
    return os.environ.get("NUMBA_DISABLE_JIT") == "1"


@contextmanager
def _deep_enough() -> Iterator[None]:
    """Raise the recursion limit inside this context.

    Numba compiles a function while it types its caller, with some thirty Python frames per level.
    """
    before = sys.getrecursionlimit()
    sys.setrecursionlimit(max(before, DEEPEST))
    try:
        yield
    finally:
        sys.setrecursionlimit(before)


class MachineCode:
    """One compiled function.

    `compile` returns a Numba `cfunc`; it is called only if no intact object file is kept. `calls`: other compiled
    functions that it calls, by the names it uses for them.
    """

    def __init__(
        self,
        folder: str,
        name: str,
        sources: Sequence[Path],
        signature: Sequence[Any],
        compile: Callable[[], Any],
        calls: Mapping[str, MachineCode] | None = None,
    ) -> None:
        self._folder, self._name, self._sources = folder, name, tuple(sources)
        self._signature, self._compile, self._calls = tuple(signature), compile, calls or {}
        self._loaded: Any = None
        self._address = 0
        # It owns the machine code: it must live as long as the function.
        self._engine: Any = None

    @property
    def folder(self) -> Path:
        """The folder of its machine code."""
        return cache_folder(self._folder, self._sources)

    def files(self) -> Iterator[Path]:
        """Where the machine code may be: in the cache or, if that cannot be written, in a folder of the user's."""
        name = f"{self._name}.o"
        yield self.folder / name
        if other := other_folder(self.folder):
            yield other / name

    def _kept(self) -> bytes | None:
        """The machine code, if intact: damaged code would crash the process."""
        for path in self.files():
            try:
                if not is_ours(path):
                    continue
                digest, _, content = path.read_bytes().partition(b"\n")
            except OSError:
                continue
            if digest == hashlib.sha256(content).hexdigest().encode():
                return content
        return None

    def is_ready(self) -> bool:
        """Whether the function can be called immediately: its code is there, or none is wanted."""
        return self._loaded is not None or uncompiled() or self._kept() is not None

    def obtain(self) -> bytes:
        """What `make` gives, from the cache if it is there; of several processes, one compiles and the others wait."""
        kept = self._kept()
        if kept is not None:
            return kept
        with self._compiling():
            return self._kept() or self.make()

    @contextmanager
    def _compiling(self) -> Iterator[None]:
        """Hold the lock of its file in the cache, if that can be written."""
        path = self.folder / f"{self._name}.lock"
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            file = path.open("w")
        except OSError:
            yield
            return
        with file:
            fcntl.flock(file, fcntl.LOCK_EX)
            yield

    def make(self) -> bytes:
        """Compile: a line with the function's name, then the machine code. It is kept if possible."""
        if sys.stderr is not None and sys.stderr.isatty():
            print(f"cinetica: compiling the {self._folder} once; this takes about a minute", file=sys.stderr)
        for called in self._calls:
            # Numba links what it compiles, although it is not called here.
            llvm.add_symbol(called, _abort())
        with _deep_enough():
            made = self._compile()
        code: bytes = made._library._get_compiled_object()
        name: str = made._wrapper_name
        return self.keep(name.encode() + b"\n" + code)

    def keep(self, content: bytes) -> bytes:
        """Keep machine code for the next start, in the first place that can be written; warn if there is none."""
        reason = "no place to write"
        for path in self.files():
            try:
                _write(path, hashlib.sha256(content).hexdigest().encode() + b"\n" + content)
            except OSError as error:
                reason = f"{path.parent}: {error.strerror or error}"
            else:
                remove_earlier(self.folder)
                return content
        print(f"cinetica: compiled code cannot be kept ({reason}); every start compiles it again", file=sys.stderr)
        return content

    def load(self) -> None:
        """Make the function ready to be called, compiled first if there is no intact object file."""
        if self._loaded is None and not uncompiled():
            self._load(self.obtain())

    @property
    def function(self) -> Any:
        """The function behind its C interface, compiled first if there is no intact object file."""
        if self._loaded is None:
            self._load(self.obtain())
        return self._loaded

    @property
    def address(self) -> int:
        """The address of the function, for machine code that calls it."""
        if self._loaded is None:
            self._load(self.obtain())
        return self._address

    def _load(self, content: bytes) -> None:
        name, _, code = content.partition(b"\n")
        for called, other in self._calls.items():
            llvm.add_symbol(called, other.address)
        self._engine = _linked(code)
        self._address = self._engine.get_function_address(name.decode())
        self._loaded = ctypes.CFUNCTYPE(None, *self._signature)(self._address)


def _abort() -> int:
    """The address of the C library's `abort`."""
    return ctypes.cast(ctypes.CDLL(None).abort, POINTER).value or 0


def _linked(code: bytes) -> Any:
    """The LLVM engine that owns the machine code of an object file."""
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    for symbol in NEVER_CALLED:
        # Symbols are global to the process: if Numba is loaded too, its own stay.
        if llvm.address_of_symbol(symbol) is None:
            llvm.add_symbol(symbol, _abort())
    machine = llvm.Target.from_default_triple().create_target_machine(jit=True)
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), machine)
    engine.add_object_file(llvm.ObjectFileRef.from_data(code))
    engine.finalize_object()
    return engine


def _write(path: Path, content: bytes) -> None:
    """Write so that a concurrent compile, or a crash, never leaves half a file."""
    path.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=path.parent, delete=False) as file:
        try:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
            Path(file.name).replace(path)
        except BaseException:
            Path(file.name).unlink(missing_ok=True)
            raise
