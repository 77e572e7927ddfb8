// A value to compare with, by a share of it.
#pragma once

#include <doctest/doctest.h>

/// doctest's own Approx counts what is below 1 as if it were 1: of small numbers it would accept anything. Here 0 is 0
/// alone; with .scale(1) values near 0 are compared by an absolute difference.
inline doctest::Approx about(double value) { return doctest::Approx(value).scale(1e-280); }
