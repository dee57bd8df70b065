"""Which pictures have points like those of an image: hashes found again among very many.

Hashes that differ in few bits agree in all bits of one of their parts or another (Gionis, Indyk and
Motwani, 1999): each of several tables is sorted by such a part, and only what stands together is
compared in full.
"""

from collections.abc import Sequence

import numpy

ALIKE_BITS = 24
"""Two hashes of 128 bits that differ in no more say that two points may be one."""
_OCTETS = 16
"""Of a hash; each with the one behind it is a part that a table is sorted by."""


class AlikePoints:
    """The hashes of the points of many pictures, ready to be asked."""

    def __init__(self, hashes: Sequence[numpy.ndarray]) -> None:
        """Takes of each picture its hashes, of shape (n, 2) in 64-bit words."""
        lengths = [len(one) for one in hashes]
        self._pictures = len(hashes)
        self._owners = numpy.repeat(numpy.arange(len(lengths)), lengths)
        self._words = numpy.concatenate([*hashes, numpy.zeros((0, 2), numpy.uint64)])
        self._tables = []
        for keys in self._keys(self._words):
            order = numpy.argsort(keys, kind="stable").astype(numpy.int32)
            self._tables.append((keys[order], order))

    def counts(self, wanted: numpy.ndarray) -> numpy.ndarray:
        """Of each picture, how many of these hashes it has one like; hashes of shape (m, 2)."""
        found = [numpy.zeros(0, numpy.int64)]
        for keys, (table, order) in zip(self._keys(wanted), self._tables, strict=True):
            starts = numpy.searchsorted(table, keys, "left")
            lengths = numpy.searchsorted(table, keys, "right") - starts
            asking = numpy.repeat(numpy.arange(len(wanted)), lengths)
            within = numpy.arange(len(asking)) - numpy.repeat(
                numpy.cumsum(lengths) - lengths, lengths
            )
            asked = order[numpy.repeat(starts, lengths) + within]
            apart = numpy.bitwise_count(self._words[asked] ^ wanted[asking]).sum(axis=1)
            near = apart <= ALIKE_BITS
            found.append(asking[near] * self._pictures + self._owners[asked[near]])
        pairs = numpy.unique(numpy.concatenate(found))
        return numpy.bincount(pairs % max(1, self._pictures), minlength=self._pictures)

    @staticmethod
    def _keys(words: numpy.ndarray) -> list[numpy.ndarray]:
        """For each table its part of each hash, as a number."""
        octets = numpy.ascontiguousarray(words).view(numpy.uint8).reshape(len(words), _OCTETS)
        parts = octets.T.astype(numpy.uint16)
        return [parts[at] << 8 | parts[(at + 1) % _OCTETS] for at in range(_OCTETS)]
