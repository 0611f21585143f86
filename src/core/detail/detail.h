/// Detail maps: some scales of a picture and not the others, as bands of a Laplacian pyramid (Burt and Adelson 1983).
/// What is larger than a scale keeps layout and light and leaves surfaces free; what is smaller keeps surfaces.
#pragma once

#include <vector>

#include "core/guides/tuning.h"
#include "core/image/image.h"
#include "core/image/lit.h"
#include "core/measure/proof_seen.h"
#include "core/problem.h"

namespace hscaffold::detail {

struct DetailTuning {
  double finest = 0;      ///< what is finer goes, percent of the longer side, [0, 20]; 0: nothing goes
  double coarsest = 100;  ///< what is coarser goes, the same, [0.3, 100]; 100: nothing goes, and the light stays
  double gain = 1;        ///< of what is kept, [0.2, 3]
  bool colours = true;    ///< in colour
};
const TuningFields& detailTuningFields();
DetailTuning detailTuningFrom(const Tuning& tuning);

/// Scales lie on one line from 0, the finest, to 1, the whole picture: even in octaves.
double placeOf(double percent);
double percentAt(double place);
inline constexpr double finestScale = 0.15;  ///< percent, at place 0

/// How much of each band of a picture of this size is kept, [0, 1]; the coarsest, which is what remains, first.
std::vector<float> keptBands(Size size, const DetailTuning& tuning);
/// The scale of a band, percent of the longer side: what it holds is about so large.
double scaleOfBand(std::size_t band, std::size_t bands, Size size);
/// As many as a picture of this size has.
std::size_t bandsIn(Size size);

/// @param picture  linear RGB, [0, 1].
/// @return graded light about middle grey where the coarsest is not kept, and colours if they are asked for.
/// @throws Cancelled
light::Lit extractDetail(View<Rgb> picture, const DetailTuning& tuning, StopToken stop = {});

/// Those scales of graded light alone, as they are: without gain, and not clipped.
Image<float> keptOf(View<float> light, const DetailTuning& tuning);

/// Hold: correlation band by band of what is kept, each less what it would have by chance (turned over and pushed along
/// the frame). Fine bands count as much as coarse ones. [0, 100]
double detailHold(View<std::uint16_t> map, const DetailTuning& tuning, const ProofSeen& proof, StopToken stop = {});

/// How much light and shade each scale of a picture holds: by place, in `count` steps; any unit.
std::vector<std::uint32_t> heldByScale(View<float> light, std::size_t count);

}  // namespace hscaffold::detail
