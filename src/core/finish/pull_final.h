/// A proof pulled again larger: composed as a whole where the engine can, else part by part as jobs of their own; the
/// parts joined, the whole measured.
#pragma once

#include "core/finish/final.h"
#include "core/job/prepare.h"
#include "core/job/pull.h"

namespace hscaffold {

/// Of which proof a final is made, and how.
struct FinalPlan {
  Recipe proof;             ///< the proof's
  std::int64_t number = 0;  ///< the proof's
  Size size;                ///< of the proof's ratio within 1 %, no smaller than it, on the engine's step
  double change = limits::finalChange.usual;
};

/// The recipe of the final itself: the proof's guides and words at the final's size, begun with the proof. What a proof
/// changed from words to words is wanted in plain words now.
Recipe finalRecipe(const FinalPlan& plan);

/// How it is cut for an engine. @throws Problem (badInput) where it cannot be
TilePlan tilesOf(const FinalPlan& plan, const EngineInfo& engine);

/// What it will about need.
struct FinalNeeds {
  double milliseconds = 0;
  std::int64_t bytes = 0;  ///< of memory, beyond what the program has
};
FinalNeeds needsOf(const FinalPlan& plan, const Engine& engine);

/// How far it is. Called from the thread that works.
struct FinalSink {
  std::function<void(const EngineProgress&)> step = {};  ///< of the whole, or of the tile that is pulled
  /// A tile is there. It is not called for those that were there before.
  std::function<void(int number, View<Rgb8> tile)> tile = {};
  /// A tile that was kept from an earlier time; empty if there is none.
  std::function<Image<Rgb8>(int number)> kept = {};
};

struct FinishedFinal {
  Recipe recipe;
  Image<Rgb8> picture;
  Bytes png;  ///< with its recipe
  TilePlan plan;
  Joins joins;
  ProofMeasures measures;
  double milliseconds = 0;
  std::vector<std::string> notes;
};

/// @param proof    its picture
/// @throws Cancelled, Problem; tiles that were told of are whole
FinishedFinal pullFinal(Engine& engine, const FinalPlan& plan, View<Rgb8> proof, const JobSources& sources,
                        MadeMaps* made, const FinalSink& sink, StopToken stop);
/// The same size without an engine: see enlargedAlongEdges.
FinishedFinal enlargeToFinal(const FinalPlan& plan, View<Rgb8> proof, const JobSources& sources, MadeMaps* made,
                             StopToken stop);

/// A part of a guide's map, and of what goes with it, as the guide of a job of its own.
/// @param box  of `whole`, whose maps may be of another size @param size  of the part's map
GuideInput cutInput(const GuideInput& input, Size whole, const Box& box, Size size);

}  // namespace hscaffold
