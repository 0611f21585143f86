/// A program of the artist's own as an engine: it is given a job as a folder, says how far it is, and leaves a picture.
#pragma once

#include <atomic>
#include <filesystem>
#include <string>
#include <vector>

#include "core/engine/engine.h"

namespace hscaffold {

/// What is known of such a program, as it is kept.
struct ProgramSetup {
  std::string name;     ///< by which studies keep it; not empty
  std::string command;  ///< with {job} and {out}, which folders take the place of; double quotes round what has spaces;
                        ///< no shell
  std::vector<std::string> kinds = {};  ///< of guides that it takes, by id; empty: all
  MapsWanted maps = {};
  std::vector<std::string> families = {};  ///< of models that it has, by name
  int sizeStep = 8;
  int lanes = 1;              ///< copies of it that run at a time
  double mostSeconds = 600;   ///< a proof may take
  double mostMegapixels = 0;  ///< it makes at once; larger finals are made in parts. 0: any number
  friend bool operator==(const ProgramSetup&, const ProgramSetup&) = default;
};
inline constexpr Limits programLanes{1, 16, 1, 1, 0}, programSeconds{1, 86'400, 600, 10, 0},
    programMegapixels{0, 67, 0, 0.5, 1};
/// @throws Problem (badInput) what is wrong with it.
void checkSetup(const ProgramSetup& setup);

/// Runs the command with a job folder (see `writeJobFolder`; maps as wanted) and an empty folder for what it leaves.
/// Lines on its standard output tell how far it is: "step 7/20", and "preview FILE" names a PNG in that folder. It
/// succeeds by ending with 0 and leaving one PNG of the frame's size there, the first by name besides previews.
/// What it prints besides is let go, but for the last lines, which are said when it fails. It and what it has started
/// are ended when it takes too long or is not wanted any more. Nothing outside its folder is read: links are not
/// followed. Runs with the artist's own rights.
class ProgramEngine final : public Engine {
 public:
  /// @throws Problem (badInput)
  explicit ProgramEngine(ProgramSetup setup);
  [[nodiscard]] EngineInfo info() const override;
  Image<Rgb8> generate(const EngineJob& job, const EngineSink& sink, StopToken stop) override;
  [[nodiscard]] double estimate(const Recipe& recipe) const override;

 private:
  ProgramSetup setup_;
  std::atomic<double> perMegapixel_ = 4000;  ///< milliseconds, as measured so far
};

}  // namespace hscaffold
