#!/usr/bin/env python3
"""Writes src/jugend/base/detail/elementary_tables.hpp: what base/elementary.cpp looks up, exact to 2^-100.

All comes of series in whole numbers of 2^-240, so that no library's rounding is in it.
"""
from fractions import Fraction
from pathlib import Path

BITS = 240
ONE = 1 << BITS


def mul(a, b):
    return a * b >> BITS


def fixed(x):
    x = Fraction(x)
    return x.numerator * ONE // x.denominator


def arctan(x):
    """atan of a fraction of at most 1: halved thrice by atan(x) = 2 atan(x / (1 + sqrt(1 + x^2))), then its series."""
    x, times = fixed(x), 1
    for _ in range(5):
        root = isqrt((ONE + mul(x, x)) << BITS)
        x, times = (x << BITS) // (ONE + root), 2 * times
    total, power, n, square = 0, x, 1, mul(x, x)
    while power:
        total += power // n if n % 4 == 1 else -(power // n)
        power, n = mul(power, square), n + 2
    return times * total


def isqrt(n):
    from math import isqrt as root
    return root(n)


def log(x):
    """ln of a fraction: 2 atanh((x - 1) / (x + 1))."""
    x = Fraction(x)
    s = fixed((x - 1) / (x + 1))
    total, power, n, square = 0, s, 1, mul(s, s)
    while power not in (0, -1):
        total += power // n
        power, n = mul(power, square), n + 2
    return 2 * total


def exp(x):
    """e to a fixed number of small size."""
    total, term, n = ONE, ONE, 1
    while term:
        term = mul(term, x) // n
        total, n = total + term, n + 1
    return total


def fitted(f, last, degree):
    """Coefficients of the polynomial that meets f at Chebyshev's points from 0 to `last`: nearly the best there is."""
    from math import cos, pi
    n = degree + 1
    at = [Fraction(last) * Fraction(1 + cos(pi * (2 * k + 1) / (2 * n))) / 2 for k in range(n)]
    # Newton's divided differences, then in powers.
    value = [Fraction(f(z), ONE) for z in at]
    for k in range(1, n):
        for i in range(n - 1, k - 1, -1):
            value[i] = (value[i] - value[i - 1]) / (at[i] - at[i - k])
    powers = [value[-1]]
    for i in range(n - 2, -1, -1):
        powers = [value[i] - at[i] * powers[0]] + [
            (powers[k - 1] - at[i] * powers[k] if k < len(powers) else powers[k - 1]) for k in range(1, len(powers) + 1)]
    return powers


def series(z, term, count):
    """The sum of term(k) z^k."""
    total, power = Fraction(0), Fraction(1)
    for k in range(count):
        total, power = total + term(k) * power, power * z
    return fixed(total)


def sine_rest(z):
    """(sin(x) / x - 1) / x^2, z = x^2."""
    from math import factorial
    return series(z, lambda k: Fraction((-1) ** (k + 1), factorial(2 * k + 3)), 30)


def cosine_rest(z):
    """(cos(x) - 1 + x^2 / 2) / x^4."""
    from math import factorial
    return series(z, lambda k: Fraction((-1) ** k, factorial(2 * k + 4)), 30)


def arcsine_rest(z):
    """(asin(x) / x - 1) / x^2."""
    from math import comb
    return series(z, lambda k: Fraction(comb(2 * k + 2, k + 1), 4 ** (k + 1) * (2 * k + 3)), 120)


def fit(name, what, f, last, degree):
    found = ", ".join(text(real(fixed(c))) for c in fitted(f, last, degree))
    return f"// {what}\ninline constexpr double {name}[] = {{{found}}};\n"


def real(value):
    """The nearest double of a fixed number, as a fraction."""
    return Fraction(float(Fraction(value, ONE)))


def pair(value, bits=53):
    """High part of so many bits, and the nearest double of the rest."""
    high = real(value)
    if bits < 53:
        size = value.bit_length() - BITS
        step = Fraction(2) ** (size - bits)
        high = Fraction(round(Fraction(value, ONE) / step)) * step
    return high, real(value - fixed(high))


def text(x):
    return float(x).hex() if x else "0.0"


def parts(name, value, bits, count):
    """A number as parts of so many bits, and a last one of 53."""
    found = []
    for _ in range(count - 1):
        high, _ = pair(value, bits)
        found.append(high)
        value -= fixed(high)
    found.append(real(value))
    return f"inline constexpr double {name}[] = {{{', '.join(text(f) for f in found)}}};\n"


def main():
    ln2, pi = log(2), 4 * arctan(1)
    out = """// What elementary.cpp looks up: numbers in two parts, high and low. Written by cmake/elementary_tables.py.
#pragma once

#include <cstdint>
#include <jugend/base/detail/twofold.hpp>

namespace jugend::same_bits::tables {

"""
    out += "// Logarithm of 2, and half of pi; products of the first parts with small whole numbers are exact.\n"
    out += parts("log_2", ln2, 32, 3) + parts("half_pi", pi // 2, 33, 4)
    out += parts("half_pi_in_two", pi // 2, 33, 2)
    out += f"inline constexpr Twofold pi = {{{text(pair(pi)[0])}, {text(pair(pi)[1])}}};\n"
    out += f"inline constexpr Twofold log_of_2 = {{{text(pair(ln2)[0])}, {text(pair(ln2)[1])}}};\n"
    out += parts("log_2_by_64", ln2 // 64, 32, 2) + "\n"
    out += fit("sine", "(sin x / x - 1) / x² by powers of x², for |x| up to π/4.", sine_rest, Fraction(6169, 10000), 5)
    out += fit("cosine", "(cos x - 1 + x²/2) / x⁴, likewise.", cosine_rest, Fraction(6169, 10000), 5)
    out += fit("arcsine", "(asin x / x - 1) / x², for |x| up to 1/2.", arcsine_rest, Fraction(1, 4), 13) + "\n"
    out += "// 2 to j / 64.\ninline constexpr Twofold powers[64] = {\n"
    for j in range(64):
        high, low = pair(exp(ln2 * j // 64))
        out += f"    {{{text(high)}, {text(low)}}},\n"
    out += "};\n\n"
    out += """// For mantissas from 0x1.6p-1 on in 128 steps: 1 / m to 9 bits, and the logarithm of m, its high part a multiple of
// 2^-40. Round 1 both are exact.
struct LogStep {
  double inverse, high, low;
};
inline constexpr LogStep log_steps[128] = {
"""
    for i in range(128):
        # Mantissas of 0x1.6p-1 + i / 128 of an octave: the first 80 lie below 1, in steps half as wide.
        low, high = (Fraction(i + 176, 256), Fraction(i + 177, 256)) if i < 80 else (
            1 + Fraction(i - 80, 128), 1 + Fraction(i - 79, 128))
        middle = (low + high) / 2
        inverse = Fraction(1) if low <= 1 <= high else Fraction(round(512 / middle), 512)
        value = -log(inverse) if inverse != 1 else 0
        first = Fraction(round(Fraction(value, ONE) * 2**40), 2**40)
        out += f"    {{{text(inverse)}, {text(first)}, {text(real(value - fixed(first)))}}},\n"
    out += "};\n\n// Arc tangent of i / 64.\ninline constexpr Twofold arctans[65] = {\n"
    for i in range(65):
        high, low = pair(arctan(Fraction(i, 64)))
        out += f"    {{{text(high)}, {text(low)}}},\n"
    out += "};\n\n// 2 / pi in words of 32 bits, the first those below the point.\ninline constexpr std::uint32_t two_by_pi[] = {"
    return out


def two_by_pi(words):
    """Bits of 2 / pi, from pi to more bits than are asked for."""
    global BITS, ONE
    BITS = 32 * (words + 4)
    ONE = 1 << BITS
    inverse = (2 * ONE << BITS) // (4 * arctan(1))
    rows = [f"0x{inverse >> (BITS - 32 * (i + 1)) & 0xffffffff:08x}" for i in range(words)]
    return "".join(("\n    " if i % 8 == 0 else " ") + r + "," for i, r in enumerate(rows)) + "\n};\n"


if __name__ == "__main__":
    text_of_all = main() + two_by_pi(44) + "\n}  // namespace jugend::same_bits::tables\n"
    target = Path(__file__).resolve().parent.parent / "src/jugend/base/detail/elementary_tables.hpp"
    target.parent.mkdir(exist_ok=True)
    target.write_text(text_of_all)
