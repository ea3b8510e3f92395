#!/usr/bin/env python3
"""Prints the numbers of every chunk of a logbook without `lap`: frames, repetitions, long traces.

    python3 read_chunks.py logbook.db        a line a number: LAP SERIES NUMBER

A chunk is a file of the Pco format (standalone version 3, format 4) of unsigned 64-bit numbers. What is read here is
all that is written with: modes classic and multiple, differences none, consecutive and looking back.
"""
import sqlite3
import sys

MASK, CENTRE, BATCH, LANES = (1 << 64) - 1, 1 << 63, 256, 4


class Bits:
    """Reads numbers of so many bits, the lowest first."""

    def __init__(self, data):
        self.data, self.at = data, 0

    def take(self, bits):
        first, last = self.at // 8, (self.at + bits + 7) // 8
        if last > len(self.data):
            raise ValueError("the chunk is cut short")
        number = int.from_bytes(self.data[first:last], "little") >> self.at % 8
        self.at += bits
        return number & ((1 << bits) - 1)

    def whole_byte(self):
        self.at = (self.at + 7) // 8 * 8


class Stream:
    """One of the streams that a chunk is made of: a bin by a table of states, and an offset into the bin."""

    def __init__(self, bits, width):
        self.log, count = bits.take(4), bits.take(15)
        bins = [(bits.take(self.log) + 1, bits.take(width), bits.take(width.bit_length())) for _ in range(count)]
        size = 1 << self.log
        self.single = count <= 1
        bins = bins or [(1, 0, 0)]
        stride = 3 * size // 5 | 1
        symbols = [0] * size
        step = 0
        for symbol, (weight, _, _) in enumerate(bins):
            for _ in range(weight):
                symbols[stride * step % size] = symbol
                step += 1
        seen = [weight for weight, _, _ in bins]
        self.states = []
        for symbol in symbols:
            more = size.bit_length() - seen[symbol].bit_length()
            self.states.append(((seen[symbol] << more) - size, more, *bins[symbol][1:]))
            seen[symbol] += 1

    def begin(self, bits, width, kept):
        self.kept = [bits.take(width) for _ in range(kept)]
        self.lanes = [bits.take(self.log) for _ in range(LANES)]

    def batch(self, bits, count):
        found = []
        for at in range(count):
            base, more, lower, offset = self.states[0 if self.single else self.lanes[at % LANES]]
            if not self.single:
                self.lanes[at % LANES] = base + bits.take(more)
            found.append((lower, offset))
        return [lower + bits.take(offset) for lower, offset in found]


def numbers(packed):
    """Returns the numbers of a chunk."""
    bits = Bits(packed)
    if packed[:5] != b"pco!\x03":
        raise ValueError("not a chunk of this version")
    bits.at = 40
    bits.take(8)  # the type that all parts share, or none
    bits.take(1 + bits.take(6))  # how many numbers there may be
    bits.whole_byte()
    if bits.take(8) != 4:
        raise ValueError("not a chunk of this format")
    bits.take(8)
    found = []
    while bits.take(8):
        found += part(bits, bits.take(24) + 1)
    return found


def part(bits, left):
    mode = bits.take(4)
    if mode > 1:
        raise ValueError("a mode that is not written with")
    base = bits.take(64) if mode == 1 else 1
    delta, order, window, both = bits.take(4), 0, 0, False
    if delta == 1:
        order, both = bits.take(3), bits.take(1)
    elif delta == 2:
        window, order = 1 << 1 + bits.take(5), 1 << bits.take(4)
        both = bits.take(1)
    elif delta:
        raise ValueError("differences that are not written with")
    looks = Stream(bits, 32) if delta == 2 else None
    streams = [Stream(bits, 64) for _ in range(1 + mode)]
    bits.whole_byte()
    if looks:
        looks.begin(bits, 32, 0)
    differ = [True, bool(both)]
    for stream, differs in zip(streams, differ):
        stream.begin(bits, 64, order if differs else 0)
        if delta == 2 and differs:
            stream.past = [0] * (window - order) + stream.kept
    bits.whole_byte()
    found = []
    while left:
        count = min(left, BATCH)
        back = looks.batch(bits, min(count, max(left - order, 0))) if looks else []
        made = []
        for stream, differs in zip(streams, differ):
            kept = order if differs else 0
            some = stream.batch(bits, min(count, max(left - kept, 0)))
            if differs and delta:
                some = summed(stream, some, count, back if delta == 2 else None)
            made.append(some)
        adjust = made[1] if mode == 1 else [0] * count
        found += [(number * base + more) & MASK for number, more in zip(made[0], adjust)]
        left -= count
    return found


def summed(stream, some, count, back):
    """Returns the numbers that `some` are the differences of."""
    if back is not None:
        for difference, look in zip(some, back):
            stream.past.append((difference + CENTRE + stream.past[-look]) & MASK)
        return stream.past[len(stream.past) - len(some) - len(stream.kept) :][:count]
    some = [(number + CENTRE) & MASK for number in some] + [0] * (count - len(some))
    for place in reversed(range(len(stream.kept))):
        moment = stream.kept[place]
        for at, difference in enumerate(some):
            some[at], moment = moment, (moment + difference) & MASK
        stream.kept[place] = moment
    return some


def main():
    db = sqlite3.connect(f"file:{sys.argv[1]}?mode=ro", uri=True)
    query = """SELECT s.rig || '-' || s.number || '.' || l.number, c.series, c.count, c.packed
               FROM chunk c JOIN lap l ON l.id = c.lap JOIN session s ON s.id = l.session
               ORDER BY s.id, l.number, c.series, c.part"""
    for lap, series, count, packed in db.execute(query):
        found = numbers(packed)
        if len(found) != count:
            raise ValueError(f"{lap} {series}: {len(found)} numbers, not {count}")
        sys.stdout.write("".join(f"{lap} {series} {number}\n" for number in found))


if __name__ == "__main__":
    main()
