#include "app/proofs/own_services.h"

#include <QPointer>
#include <QSettings>
#include <algorithm>

#include "app/desk.h"
#include "app/proofs/own_programs.h"
#include "app/proofs/tokens.h"

namespace hscaffold::app {
namespace {

constexpr auto servicesKey = "own services";

void writeServices(const std::vector<RemoteSetup>& setups) {
  QSettings settings;
  settings.remove(servicesKey);
  settings.beginWriteArray(servicesKey, static_cast<int>(setups.size()));
  for (int i = 0; i < static_cast<int>(setups.size()); ++i) {
    settings.setArrayIndex(i);
    settings.setValue("name", QString::fromStdString(setups[static_cast<std::size_t>(i)].name));
    settings.setValue("address", QString::fromStdString(setups[static_cast<std::size_t>(i)].address));
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
    if (!setup.name.empty() && !setup.address.empty()) out.push_back(std::move(setup));
  }
  settings.endArray();
  return out;
}

void addOwnServices(Desk& desk) {
  for (const RemoteSetup& setup : ownServices())
    readToken(&desk, setup.name, [&desk, setup](const std::string& token) {
      RemoteSetup with = setup;
      with.token = token;
      ask(desk, &desk, with, [&desk, name = setup.name](const Asked& asked) {
        if (asked.engine)
          desk.addEngine(asked.engine);
        else if (desk.document.state().engine == name)
          emit desk.notice(QString::fromStdString(asked.trouble));
      });
    });
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
  desk.removeEngine(name);
}

}  // namespace hscaffold::app
