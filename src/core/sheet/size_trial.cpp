#include "core/sheet/size_trial.h"

#include <fmt/format.h>

#include <cmath>

#include "core/image/colour.h"
#include "core/image/resample.h"
#include "core/measure/hold.h"

namespace hscaffold {
namespace {

constexpr int side = 64;
/// As much as a small proof of one scale may differ from the large one, and still be called the same.
constexpr double samePicture = 0.95, samePoints = 8;

Image<float> tonesOf(const ProofSeen& proof, Size size, StopToken stop) {
  const auto small = resampled(proof.linear(stop).view(), size);
  Image<float> out(size);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) out(x, y) = linearToOkLab(small(x, y)).l;
  return out;
}

}  // namespace

double toneAlike(const ProofSeen& a, const ProofSeen& b, StopToken stop) {
  const Size size = within(a.size(), side);
  const auto first = tonesOf(a, size, stop), second = tonesOf(b, size, stop);
  return correlation(first, second);
}

CarriesOver carriesOver(const SizeTrial& trial) {
  const auto alike = [](double small, double large) {
    return small < 0 || large < 0 || std::abs(small - large) <= samePoints;
  };
  if (!alike(trial.holdSmall, trial.holdLarge) || !alike(trial.shiftSmall, trial.shiftLarge))
    return CarriesOver::nothing;
  return trial.tone >= samePicture ? CarriesOver::all : CarriesOver::measures;
}

std::string sentenceOf(const SizeTrial& trial) {
  std::string figures = fmt::format("tone agrees {:.2f}", trial.tone);
  if (trial.holdSmall >= 0 && trial.holdLarge >= 0)
    figures += fmt::format(", hold {:.0f} small and {:.0f} large", trial.holdSmall, trial.holdLarge);
  if (trial.shiftSmall >= 0 && trial.shiftLarge >= 0)
    figures += fmt::format(", shift {:.0f} and {:.0f}", trial.shiftSmall, trial.shiftLarge);
  switch (carriesOver(trial)) {
    case CarriesOver::all:
      return "A small proof of this engine is the large one seen small (" + figures +
             "): what a strip says carries over.";
    case CarriesOver::measures:
      return "At full size this engine makes another picture that holds and moves alike (" + figures +
             "): settings and numbers carry over, the picture does not.";
    case CarriesOver::nothing:
      break;
  }
  return "At full size this engine makes another picture that measures otherwise (" + figures +
         "): of a small strip only the order of its settings may be believed. Pull at full size before you decide.";
}

}  // namespace hscaffold
