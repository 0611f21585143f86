#include "core/engine/standin/chain_pieces.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/groups.h"
#include "core/image/components.h"

namespace hscaffold::standin {
namespace {

constexpr double most = 0.73;            ///< of a piece that is split: comes at once
constexpr double mostAndAPiece = 0.85;   ///< the same, where a smaller piece is not torn for it
constexpr double wholeWhenSplit = 0.25;  ///< of a piece that is split: smaller pieces in it up to here are not torn

using Labels = std::vector<std::int32_t>;  ///< for each chain; -1: none

struct Piece {
  std::vector<std::size_t> chains;  ///< most salient first
  double salience = 0;              ///< mean by length
  double length = 0;
};

/// @param some  of all chains, most salient first
std::vector<Piece> piecesBy(const Labels& label, const std::vector<Chain>& all, const std::vector<std::size_t>& some) {
  std::vector<Piece> pieces;
  std::vector<std::int32_t> known;  // by label
  for (const std::size_t i : some) {
    std::size_t which = pieces.size();
    if (label[i] >= 0) {
      const auto l = static_cast<std::size_t>(label[i]);
      if (l >= known.size()) known.resize(l + 1, -1);
      if (known[l] < 0) known[l] = static_cast<std::int32_t>(which);
      which = static_cast<std::size_t>(known[l]);
    }
    if (which == pieces.size()) pieces.emplace_back();
    Piece& piece = pieces[which];
    piece.chains.push_back(i);
    piece.length += all[i].length;
    piece.salience += (all[i].salience - piece.salience) * all[i].length / piece.length;
  }
  return pieces;
}

/// Connected pieces of the mask; those that a chain runs through are one.
Labels joinedPieces(const std::vector<Chain>& chains, View<std::uint8_t> mask) {
  const auto found = componentsOf(mask, Connected::eight);
  Groups groups(found.all.size());
  Labels first;
  for (const Chain& chain : chains) {
    first.push_back(-1);
    for (const Point p : chain.path) {
      const std::int32_t label = found.label.view().clamped(static_cast<int>(p.x), static_cast<int>(p.y));
      if (label < 0) continue;
      if (first.back() < 0) first.back() = label;
      groups.join(static_cast<std::size_t>(first.back()), static_cast<std::size_t>(label));
    }
  }
  for (std::int32_t& label : first)
    if (label >= 0) label = static_cast<std::int32_t>(groups.of(static_cast<std::size_t>(label)));
  return first;
}

/// The connected piece of the map that most of each chain lies on.
/// @param size  of the layout, in which chains are
Labels piecesUnder(const std::vector<Chain>& chains, View<std::uint16_t> map, Size size) {
  const auto found = componentsOf(above<std::uint16_t>(map, 32767), Connected::eight);
  const double across = static_cast<double>(map.width()) / size.width,
               down = static_cast<double>(map.height()) / size.height;
  Labels out;
  std::vector<int> votes(found.all.size(), 0);
  for (const Chain& chain : chains) {
    std::vector<std::int32_t> seen;
    for (const Point p : chain.path) {
      const int left = static_cast<int>(std::floor(p.x) * across), top = static_cast<int>(std::floor(p.y) * down);
      const int right = std::max(left + 1, static_cast<int>((std::floor(p.x) + 1) * across)),
                bottom = std::max(top + 1, static_cast<int>((std::floor(p.y) + 1) * down));
      for (int y = top; y < bottom; ++y)
        for (int x = left; x < right; ++x) {
          const std::int32_t label = found.label.view().clamped(x, y);
          if (label >= 0 && votes[static_cast<std::size_t>(label)]++ == 0) seen.push_back(label);
        }
    }
    const auto votesOf = [&](std::int32_t label) { return votes[static_cast<std::size_t>(label)]; };
    const auto best = std::max_element(seen.begin(), seen.end(),
                                       [&](std::int32_t a, std::int32_t b) { return votesOf(a) < votesOf(b); });
    out.push_back(best != seen.end() ? *best : -1);
    for (const std::int32_t label : seen) votes[static_cast<std::size_t>(label)] = 0;
  }
  return out;
}

/// Leaves most of a piece in its part and takes the rest out, smaller piece by smaller piece.
/// @param next  the first part that nobody has
void split(const Piece& large, const std::vector<Chain>& chains, const Labels& finer, Labels& part,
           std::int32_t& next) {
  auto pieces = piecesBy(finer, chains, large.chains);
  std::stable_sort(pieces.begin(), pieces.end(),
                   [](const Piece& a, const Piece& b) { return a.salience > b.salience; });
  double atOnce = 0;
  for (const Piece& piece : pieces) {
    const bool missing = atOnce < most * large.length;
    if (missing && atOnce + piece.length <= mostAndAPiece * large.length) {
      atOnce += piece.length;
    } else if (piece.length <= wholeWhenSplit * large.length) {
      for (const std::size_t i : piece.chains) part[i] = next;
      ++next;
    } else {
      for (const std::size_t i : piece.chains)
        if (atOnce < most * large.length)
          atOnce += chains[i].length;
        else
          part[i] = -1;
    }
  }
}

}  // namespace

Labels shareInPieces(std::vector<Chain>& chains, View<std::uint8_t> mask, View<std::uint16_t> map) {
  auto part = joinedPieces(chains, mask);
  std::vector<std::size_t> everyone(chains.size());
  std::iota(everyone.begin(), everyone.end(), std::size_t{0});
  double all = 0;
  for (const Chain& chain : chains) all += chain.length;
  std::int32_t next = part.empty() ? 0 : *std::max_element(part.begin(), part.end()) + 1;
  Labels finer;
  for (const Piece& piece : piecesBy(part, chains, everyone))
    if (piece.length > muchOfAMap * all) {
      if (finer.empty()) finer = piecesUnder(chains, map, mask.size());
      split(piece, chains, finer, part, next);
    }
  for (const Piece& piece : piecesBy(part, chains, everyone))
    for (const std::size_t i : piece.chains) chains[i].salience = piece.salience;
  return part;
}

}  // namespace hscaffold::standin
