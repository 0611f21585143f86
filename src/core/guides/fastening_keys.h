/// By which keys `Fastening::pieces` has the layers of a slot: the newest by the slot's name, older ones beside it.
#pragma once

#include <string>

namespace hscaffold {

inline constexpr int mostOlderPieces = 32;
/// @param number  from 1, the newest of the older ones, to `mostOlderPieces`
inline std::string olderPieceKey(const std::string& slot, int number) { return slot + " " + std::to_string(number); }

}  // namespace hscaffold
