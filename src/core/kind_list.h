/// The kinds of guide, in the order in which they are offered. A new kind is one line here; `kinds.cpp`, the stand-in
/// and the window each expect a function of that name (see "Adding a kind of guide" in README.md).
#pragma once

#define HSCAFFOLD_KINDS(KIND) \
  KIND(pose)                  \
  KIND(depth)                 \
  KIND(edges)                 \
  KIND(lines)                 \
  KIND(loose)                 \
  KIND(tone)                  \
  KIND(detail)                \
  KIND(pattern)
