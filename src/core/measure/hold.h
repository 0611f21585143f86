/// Hold: how much of a guide's structure is in a proof, 0 to 100, from the proof itself.
#pragma once

#include <string>

#include "core/guides/kind.h"
#include "core/measure/along_lines.h"
#include "core/measure/proof_seen.h"

namespace hscaffold {

/// What was found out of maps is kept for the next proof: of so many pixels altogether.
inline constexpr std::size_t mostAskedPixels = 32'000'000;

/// Share of the map's pixels that have an edge of `found` within `tolerance` pixels (boundary recall, Martin et al.
/// 2004).
double boundaryRecall(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance);
/// Precision is recall the other way round; F is their harmonic mean.
double boundaryF(View<std::uint8_t> map, View<std::uint8_t> found, double tolerance);

/// What share of a proof's pixels is looked at as edges for a line map whose lines have this share: a drawn line has
/// two edges, so somewhat more.
double shareForProof(double ofLines);
/// The strongest edges of a proof, about `share` of its pixels, and what goes on from them; none that is faint beside
/// the others, as what shines through from another picture is.
Image<std::uint8_t> proofEdges(const ProofSeen& proof, double share, StopToken stop = {});

/// Boundary recall of line maps within `toleranceShare` of the diagonal, in a proof.
double lineRecall(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare = 0.0075, StopToken stop = {});

/// Calibrated: a proof that has nothing to do with the map scores near 0, a perfect copy 100. A line that lies within
/// half the tolerance of an edge that runs the same way counts whole, and less the farther off it is up to all of it.
/// The chance level is what the same lines would get when moved a little aside, so it follows how dense edges are in
/// each place. Misses are the map's lines that no such edge of the proof is near, made broad enough to be seen.
Holding lineHolding(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare = 0.0075,
                    StopToken stop = {});
/// A map as it is asked for where proofs are looked at.
struct AskedKey {
  std::string map;  ///< its digest
  Size seen;        ///< see `ProofSeen::size`
  friend bool operator==(const AskedKey&, const AskedKey&) = default;
};
/// Lines as they are asked for, where proofs are looked at: read once for many proofs.
struct LinesAsked {
  struct Pixel {
    int x = 0, y = 0;
    float half = 0;             ///< of the line's breadth there, less half a pixel
    std::uint8_t way = anyWay;  ///< that the line runs
  };
  std::vector<Pixel> middles;
  Size size;          ///< see `ProofSeen::size`
  double length = 0;  ///< of all lines, pixels
  double share = 0;   ///< of a proof's pixels that are edges where such lines are drawn
};
/// @param lines  128 or more where they are; of any size.
/// @param seen   size at which proofs are looked at.
LinesAsked linesAsked(View<std::uint8_t> lines, Size seen, StopToken stop = {});
/// Hold and misses among edges that were looked at before, and how much of the lines chance leaves to be told, [0, 1]:
/// little where edges are dense.
struct LinesHeld {
  Holding holding;
  double tells = 0;
};
LinesHeld linesHeld(const LinesAsked& lines, const AlongLines& edges, double toleranceShare);
/// Its hold alone.
double lineHold(View<std::uint16_t> map, const ProofSeen& proof, double toleranceShare = 0.0075, StopToken stop = {});
/// Correlation of the low bands of lightness, without the ramp and what else is broader than masses, as far as the map
/// says anything beside it, and less what it would have by chance (the map's mirror image, and both pushed along the
/// frame); below nothing as 0.
double toneHold(View<std::uint16_t> map, const ProofSeen& proof, StopToken stop = {});

/// Linear correlation of two pictures of the same size; 0 where one is flat.
double correlation(View<float> a, View<float> b);

}  // namespace hscaffold
