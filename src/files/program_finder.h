/// A program of the artist's choice as a finder of figures.
#pragma once

#include <filesystem>

#include "core/pose/finder.h"

namespace hscaffold {

/// Runs `program PICTURE.png` and reads COCO key points (annotations or results) from its standard output. The picture
/// is a temporary file; the program runs with the artist's own rights and is ended when it is no longer wanted.
class ProgramFinder : public pose::FigureFinder {
 public:
  explicit ProgramFinder(std::filesystem::path program) : program_(std::move(program)) {}
  [[nodiscard]] std::string name() const override { return program_.filename().string(); }
  std::vector<pose::Figure> find(View<Rgb> picture, StopToken stop) override;

 private:
  std::filesystem::path program_;
};

}  // namespace hscaffold
