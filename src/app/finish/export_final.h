/// Where and as what a final is written.
#pragma once

#include <string>

class QWidget;

namespace hscaffold::app {

class Desk;

/// Asks, and writes it on another thread.
void askExportFinal(Desk& desk, const std::string& final, QWidget* parent);
/// The same for all its maps, made anew at its size, a picture each in a new folder.
void askExportFinalMaps(Desk& desk, const std::string& final, QWidget* parent);

}  // namespace hscaffold::app
