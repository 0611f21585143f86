/// What makes the proofs of a command: the study's own engine, another one by name, or a program.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "cli/command.h"
#include "core/engine/engine.h"

namespace hscaffold {

struct EngineChoice {
  std::string name, program, address, tokenFile, inks;
  std::vector<std::string> maps;
  double mostMegapixels = 0;

  void addTo(Command& command);
  /// @param usual  the name of the study's own engine. @throws Problem (badInput)
  [[nodiscard]] std::shared_ptr<Engine> engine(const std::string& usual) const;

 private:
  [[nodiscard]] MapsWanted mapsWanted() const;
};

}  // namespace hscaffold
