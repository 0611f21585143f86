/// What a dropped picture with a recipe inside may become: a reference, the start picture, or the study's settings.
#pragma once

#include <filesystem>

class QWidget;

namespace hscaffold::app {

class Desk;

/// Asks what it should be, and sees to that. Pictures that its settings need and that are not in the study are named
/// and can be located. @return false if the file carries no recipe
bool offerRecipe(Desk& desk, QWidget* parent, const std::filesystem::path& file);

}  // namespace hscaffold::app
