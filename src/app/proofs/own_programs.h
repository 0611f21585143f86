/// Programs of the artist's own that are engines: remembered on this machine, and there again the next time.
#pragma once

#include <vector>

#include "files/program_engine.h"

class QSettings;

namespace hscaffold::app {

class Desk;

/// How an engine wants its maps, as settings keep it under the group they stand in. @throws Problem (badInput)
MapsWanted storedMaps(const QSettings& settings);
/// What is remembered; entries that cannot be used any more are left out.
std::vector<ProgramSetup> ownPrograms();
/// Makes every remembered program an engine that can be chosen.
void addOwnPrograms(Desk& desk);
/// Remembers it, in the place of one of its name, and makes it an engine. @throws Problem (badInput)
void rememberProgram(Desk& desk, const ProgramSetup& setup);
void forgetProgram(Desk& desk, const std::string& name);

}  // namespace hscaffold::app
