/// A picture to start from. The sooner a scale settles, the longer it comes from the start picture: its lines and light
/// act as guides do until the step from which everything is made anew, and its bands stay where they settle before that
/// step. Colour goes before layout.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "core/engine/engine.h"
#include "core/engine/standin/bands.h"
#include "core/engine/standin/plan.h"

namespace hscaffold::standin {

/// Guides with what they are asked with, the recipe's own and those that a start picture amounts to.
struct AllGuides {
  std::vector<RecipeGuide> guides;
  std::vector<GuideInput> made;           ///< inputs of the start picture's guides
  std::vector<const GuideInput*> inputs;  ///< by guide
};
/// @param until  share of the steps in which the start picture's layout acts, [0, 1]; 0: not at all. @throws Cancelled
AllGuides guidesOf(const EngineJob& job, double until, StopToken stop);

/// How far the parts of a picture take the start picture's colours, [0, 1].
float colourKept(const StartPicture& start);
/// The parts' colours drawn to the means of what the start picture shows there.
void colourFrom(Palette& palette, View<Rgb> start, const Fields& fields, float strength);

/// Brings the colours of what is planned to the distribution that the start picture has. @param strength  [0, 1]
void gradeTo(Palette& palette, View<Rgb> start, const Composition& picture, float strength);

/// Gives the parts the wanted colours, dark to dark and light to light, but for parts whose colour the words name.
void paintWith(Palette& palette, std::span<const mood::WantedColour> colours, const Wishes& wishes);

/// A start picture parted into the bands of a Laplacian pyramid.
class StartBands {
 public:
  /// @param start  linear
  /// @param whole  size of the picture that it is a part of; none: it is all of it
  StartBands(View<Rgb> start, double change, std::optional<Size> whole = {});
  /// The plan that is painted shows what the start picture shows, but for what has been made anew by now.
  void putInto(Plan& plan) const;
  /// `made` with everything that settles before step (1 - change) N as the start picture has it; linear.
  [[nodiscard]] Image<Rgb> putInto(const Image<Rgb>& made) const;

 private:
  [[nodiscard]] Fresh fresh(double left) const;
  double change_;
  std::size_t count_;  ///< of bands
  Channels start_;
};

/// How well a plan's light and dark lie as a picture's do, coarsely: correlation, [-1, 1]. Both of one small size.
float likeness(const Plan& plan, View<Rgb> picture);

/// How much of a change a picture still lacks, [0, 1]: one that is dark already when it is called bright is not
/// darkened twice. Told by the means of where the change acts. All of one small size.
/// @param where  see changedBetween
float stillToChange(View<Rgb> start, const Plan& shown, const Plan& wanted, View<float> where);

/// A picture that only differs from the start picture where two plans differ: colours move by what the plans' do, and
/// where something else is than was, it is the painted one.
/// @param change   half of it is the whole difference, [0, 1]
/// @param where    how much of the change each place takes, [0, 1]; empty: all of it everywhere
/// @param lacking  see stillToChange
Image<Rgb> changedBetween(View<Rgb> start, const Plan& shown, const Plan& wanted, View<float> otherPart,
                          View<Rgb> painted, double change, View<float> where, float lacking);

}  // namespace hscaffold::standin
