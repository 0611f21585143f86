#include "app/proofs/own_programs.h"

#include <QSettings>
#include <algorithm>

#include <nlohmann/json.hpp>

#include "app/desk.h"
#include "core/guides/json_fields.h"
#include "core/job/maps_wanted.h"

namespace hscaffold::app {
namespace {

constexpr auto list = "own programs";

void write(const std::vector<ProgramSetup>& setups) {
  QSettings settings;
  settings.remove(list);
  settings.beginWriteArray(list, static_cast<int>(setups.size()));
  for (int i = 0; i < static_cast<int>(setups.size()); ++i) {
    const ProgramSetup& setup = setups[static_cast<std::size_t>(i)];
    settings.setArrayIndex(i);
    settings.setValue("name", QString::fromStdString(setup.name));
    settings.setValue("command", QString::fromStdString(setup.command));
    QStringList kinds;
    for (const std::string& kind : setup.kinds) kinds << QString::fromStdString(kind);
    settings.setValue("kinds", kinds);
    settings.setValue("maps", QString::fromStdString(mapsWantedToJson(setup.maps).dump()));
    QStringList families;
    for (const std::string& family : setup.families) families << QString::fromStdString(family);
    settings.setValue("families", families);
    settings.setValue("size step", setup.sizeStep);
    settings.setValue("lanes", setup.lanes);
    settings.setValue("megapixels", setup.mostMegapixels);
    settings.setValue("most seconds", setup.mostSeconds);
  }
  settings.endArray();
}

}  // namespace

MapsWanted storedMaps(const QSettings& settings) {
  // As it was kept before maps had a field of their own.
  MapsWanted before;
  before.darkLines = settings.value("dark lines").toBool();
  before.nearIsDark = settings.value("near is dark").toBool();
  before.eightBits = settings.value("eight bits").toBool();
  const std::string text = settings.value("maps").toString().toStdString();
  return text.empty() ? before : mapsWantedFromJson(parseJson(text, "Settings"), "Settings, maps");
}

std::vector<ProgramSetup> ownPrograms() {
  QSettings settings;
  std::vector<ProgramSetup> out;
  const int count = settings.beginReadArray(list);
  for (int i = 0; i < count; ++i) {
    settings.setArrayIndex(i);
    ProgramSetup setup;
    setup.name = settings.value("name").toString().toStdString();
    setup.command = settings.value("command").toString().toStdString();
    for (const QString& kind : settings.value("kinds").toStringList()) setup.kinds.push_back(kind.toStdString());
    for (const QString& family : settings.value("families").toStringList())
      setup.families.push_back(family.toStdString());
    setup.sizeStep = settings.value("size step", setup.sizeStep).toInt();
    setup.lanes = settings.value("lanes", setup.lanes).toInt();
    setup.mostMegapixels = settings.value("megapixels", setup.mostMegapixels).toDouble();
    setup.mostSeconds = settings.value("most seconds", setup.mostSeconds).toDouble();
    try {
      setup.maps = storedMaps(settings);
      checkSetup(setup);
      out.push_back(std::move(setup));
    } catch (const Problem&) {
      // Somebody wrote into the settings: the rest is as good as before.
    }
  }
  settings.endArray();
  return out;
}

void addOwnPrograms(Desk& desk) {
  for (const ProgramSetup& setup : ownPrograms()) desk.addEngine(std::make_shared<ProgramEngine>(setup));
}

void rememberProgram(Desk& desk, const ProgramSetup& setup) {
  auto engine = std::make_shared<ProgramEngine>(setup);
  auto setups = ownPrograms();
  std::erase_if(setups, [&](const ProgramSetup& other) { return other.name == setup.name; });
  setups.push_back(setup);
  write(setups);
  desk.addEngine(std::move(engine));
}

void forgetProgram(Desk& desk, const std::string& name) {
  auto setups = ownPrograms();
  std::erase_if(setups, [&](const ProgramSetup& other) { return other.name == name; });
  write(setups);
  desk.removeEngine(name);
}

}  // namespace hscaffold::app
