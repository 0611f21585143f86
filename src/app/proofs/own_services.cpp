#include "app/proofs/own_services.h"

#include <QPointer>
#include <QSettings>
#include <QTimer>
#include <algorithm>
#include <nlohmann/json.hpp>

#include "app/desk.h"
#include "app/proofs/own_programs.h"
#include "app/proofs/tokens.h"
#include "core/job/maps_wanted.h"

namespace hscaffold::app {
namespace {

constexpr auto servicesKey = "own services";
constexpr int askedAgain = 20'000;  ///< milliseconds

void writeServices(const std::vector<RemoteSetup>& setups) {
  QSettings settings;
  settings.remove(servicesKey);
  settings.beginWriteArray(servicesKey, static_cast<int>(setups.size()));
  for (int i = 0; i < static_cast<int>(setups.size()); ++i) {
    settings.setArrayIndex(i);
    settings.setValue("name", QString::fromStdString(setups[static_cast<std::size_t>(i)].name));
    settings.setValue("address", QString::fromStdString(setups[static_cast<std::size_t>(i)].address));
    if (const auto& maps = setups[static_cast<std::size_t>(i)].maps)
      settings.setValue("maps", QString::fromStdString(mapsWantedToJson(*maps).dump()));
  }
  settings.endArray();
}

/// What came of asking.
struct Asked {
  std::shared_ptr<RemoteEngine> engine;
  std::string trouble;
};

void ask(Desk& desk, QObject* context, const RemoteSetup& setup, const std::function<void(const Asked&)>& done) {
  desk.tasks.run(
      context, "ask service " + setup.name, Priority::elsewhere,
      [setup](const StopToken&) {
        Asked asked;
        try {
          asked.engine = std::make_shared<RemoteEngine>(setup);
        } catch (const std::exception& error) {
          asked.trouble = error.what();
        }
        return asked;
      },
      [done](const Asked& asked) { done(asked); });
}

}  // namespace

std::vector<RemoteSetup> ownServices() {
  QSettings settings;
  std::vector<RemoteSetup> out;
  const int count = settings.beginReadArray(servicesKey);
  for (int i = 0; i < count; ++i) {
    settings.setArrayIndex(i);
    RemoteSetup setup;
    setup.name = settings.value("name").toString().toStdString();
    setup.address = settings.value("address").toString().toStdString();
    try {
      if (settings.contains("maps")) setup.maps = storedMaps(settings);
    } catch (const Problem&) {
      // Somebody wrote into the settings: then the service is heard.
    }
    if (!setup.name.empty() && !setup.address.empty()) out.push_back(std::move(setup));
  }
  settings.endArray();
  return out;
}

void askService(Desk& desk, const std::string& name) {
  const auto setups = ownServices();
  const auto setup =
      std::find_if(setups.begin(), setups.end(), [&](const RemoteSetup& each) { return each.name == name; });
  if (setup == setups.end()) return;
  readToken(&desk, name, [&desk, setup = *setup](const std::string& token) {
    RemoteSetup with = setup;
    with.token = token;
    ask(desk, &desk, with, [&desk, name = setup.name](const Asked& asked) {
      // Taken away while it was asked: then nobody wants to know.
      const auto now = ownServices();
      if (std::none_of(now.begin(), now.end(), [&](const RemoteSetup& each) { return each.name == name; })) return;
      const bool isNew = desk.silent[name] != asked.trouble;
      desk.silent[name] = asked.trouble;
      if (asked.engine) return desk.addEngine(asked.engine);
      if (isNew && desk.document.state().engine == name) emit desk.notice(QString::fromStdString(asked.trouble));
      desk.sayOf(name, asked.trouble);
      if (isNew) emit desk.enginesChanged();
    });
  });
}

std::string silenceOf(const Desk& desk, const std::string& name) {
  const auto found = desk.silent.find(name);
  return found != desk.silent.end() ? found->second : std::string();
}

void addOwnServices(Desk& desk) {
  for (const RemoteSetup& setup : ownServices()) askService(desk, setup.name);
  // What does not answer, or failed at work, is asked again now and then: it may have been switched on.
  auto* again = new QTimer(&desk);
  again->setObjectName("asks services again");
  QObject::connect(again, &QTimer::timeout, &desk, [&desk] {
    for (const RemoteSetup& setup : ownServices())
      if (const auto info = desk.engines.info(setup.name); info->missing || !info->trouble.empty())
        askService(desk, setup.name);
  });
  again->start(askedAgain);
}

void setServiceMaps(Desk& desk, const std::string& name, const std::optional<MapsWanted>& maps) {
  auto setups = ownServices();
  for (RemoteSetup& setup : setups)
    if (setup.name == name) setup.maps = maps;
  writeServices(setups);
  askService(desk, name);
}

void rememberService(Desk& desk, QObject* context, const RemoteSetup& setup,
                     const std::function<void(const QString& trouble, const QString& note)>& done) {
  const auto programs = ownPrograms();
  if (setup.name.empty() || setup.name == builtInEngine ||
      std::any_of(programs.begin(), programs.end(), [&](const ProgramSetup& p) { return p.name == setup.name; }))
    return done("Choose a name that no other engine has.", {});
  ask(desk, context, setup, [&desk, context, setup, done](const Asked& asked) {
    if (!asked.engine) return done(QString::fromStdString(asked.trouble), {});
    auto setups = ownServices();
    std::erase_if(setups, [&](const RemoteSetup& other) { return other.name == setup.name; });
    setups.push_back(setup);
    writeServices(setups);
    desk.silent.erase(setup.name);
    desk.addEngine(asked.engine);
    keepToken(context, setup.name, setup.token, [done, any = !setup.token.empty()](TokenPlace place) {
      done({}, !any ? QString()
               : place == TokenPlace::keyring
                   ? QString("Its token is in the keyring.")
                   : QString("There is no keyring here: its token is in a file that only you may read."));
    });
  });
}

void forgetService(Desk& desk, const std::string& name) {
  auto setups = ownServices();
  std::erase_if(setups, [&](const RemoteSetup& other) { return other.name == name; });
  writeServices(setups);
  keepToken(&desk, name, {}, [](TokenPlace) {});
  desk.silent.erase(name);
  desk.removeEngine(name);
}

}  // namespace hscaffold::app
