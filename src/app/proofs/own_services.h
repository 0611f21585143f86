/// Engines at addresses: remembered on this machine, asked again in the background the next time.
#pragma once

#include <QString>
#include <functional>
#include <string>
#include <vector>

#include "files/remote_engine.h"

namespace hscaffold::app {

class Desk;

/// Without tokens, which are kept elsewhere.
std::vector<RemoteSetup> ownServices();
/// Asks every remembered service what it is; those that answer can be chosen. What does not answer is said only where
/// the open study asks for it.
void addOwnServices(Desk& desk);
/// Asks a service what it is; where it answers rightly it is remembered and can be chosen.
/// @param done  told what is wrong, or, with nothing wrong, where its token was put
void rememberService(Desk& desk, QObject* context, const RemoteSetup& setup,
                     const std::function<void(const QString& trouble, const QString& note)>& done);
void forgetService(Desk& desk, const std::string& name);
/// Asks a remembered service once more; what comes of it is seen at its engine.
void askService(Desk& desk, const std::string& name);
/// What a remembered service did wrong when it was last asked; empty: nothing, or it is not asked yet.
std::string silenceOf(const Desk& desk, const std::string& name);
/// How a remembered service wants its maps, where that is set by hand; none: as it says itself.
void setServiceMaps(Desk& desk, const std::string& name, const std::optional<MapsWanted>& maps);

}  // namespace hscaffold::app
