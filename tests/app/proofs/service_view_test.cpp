// An engine at an address, in the window: asked, remembered, used, gone, taken away.
#include <QDir>
#include <QFile>
#include <QFrame>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSettings>
#include <QSignalSpy>
#include <QStandardPaths>
#include <QToolButton>

#include "app/proofs/own_services.h"
#include "app/proofs/tokens.h"
#include "app/window_fixture.h"
#include "core/engine/standin/standin.h"
#include "service/service.h"

using namespace hscaffold;
using namespace hscaffold::app;

class ServiceViewTest : public fixtures::QuickWindowTest {
  Q_OBJECT
 private slots:
  void anEngineAtAnAddressPullsTheSame();
  void whatDoesNotAnswerIsSaid();
  void tokensStayOutOfSettings();

 private:
  static ServiceSetup anyPort() {
    ServiceSetup setup;
    setup.port = 0;
    return setup;
  }
  /// Fills the panel in and asks.
  void ask(const QString& name, const QString& address, const QString& token = {}) const {
    click("engine chip");
    click("add service at address");
    auto* panel = window_->findChild<QFrame*>("address panel");
    QVERIFY(panel != nullptr);
    part<QLineEdit>("service name", panel).setText(name);
    part<QLineEdit>("service address", panel).setText(address);
    part<QLineEdit>("service token", panel).setText(token);
    click("add service", panel);
  }
};

void ServiceViewTest::anEngineAtAnAddressPullsTheSame() {
  desk().queue.pull();
  settle();
  const QImage here = desk().proofs.image(desk().proofs.current()->number);
  auto service = std::make_unique<Service>(std::make_shared<StandinEngine>(), anyPort(), JobDesk::Log{});
  ask("loft", QString("http://127.0.0.1:%1").arg(service->port()));
  QTRY_COMPARE(state().engine, std::string("loft"));
  QCOMPARE(static_cast<int>(ownServices().size()), 1);
  desk().queue.pull();
  settle();
  QCOMPARE(static_cast<int>(desk().proofs.all().size()), 2);
  QVERIFY(desk().proofs.image(desk().proofs.current()->number) == here);
  // A sheet over it, and a final: parts are jobs of their own.
  SheetPlan plan;
  plan.base = recipeOf(state());
  plan.seeds = {1, 2, 3, 4};
  QVERIFY(desk().queue.pullSheet(plan) > 0);
  settle();
  QCOMPARE(static_cast<int>(desk().proofs.all().size()), 6);
  QVERIFY(!desk().finals.begin({1, {2 * state().frame.width, 2 * state().frame.height}}).empty());
  settle();
  QVERIFY(state().finals.back().whole());
  // Gone: said, nothing lost; there again: goes on.
  service.reset();
  QSignalSpy problems(&desk(), &Desk::problem);
  auto far = desk().engines.find("loft");
  QVERIFY(far != nullptr);
  // The next time the program begins it is asked again, and is not here.
  const std::string path = this->path("kept.scaffold").toStdString();
  document().saveAs(path);
  QCOMPARE(static_cast<int>(desk().proofs.all().size()), 6);
  click("engine chip");
  auto& more = part<QToolButton>("more of loft");
  for (QAction* action : more.menu()->actions())
    if (action->text() == "Take it away") action->trigger();
  QVERIFY(ownServices().empty());
  QVERIFY(desk().engines.find("loft") == nullptr);
}

void ServiceViewTest::whatDoesNotAnswerIsSaid() {
  ask("attic", "http://127.0.0.1:9");
  auto& said = part<QLabel>("service said");
  QTRY_VERIFY_WITH_TIMEOUT(said.text().contains("does not answer"), 30'000);
  QVERIFY(state().engine == builtInEngine);
  QVERIFY(ownServices().empty());
  auto* panel = window_->findChild<QFrame*>("address panel");
  part<QLineEdit>("service address", panel).setText("attic");
  click("add service", panel);
  QTRY_VERIFY(said.text().contains("no address"));
  part<QLineEdit>("service name", panel).setText("stand-in");
  click("add service", panel);
  QTRY_VERIFY(said.text().contains("no other engine"));
}

void ServiceViewTest::tokensStayOutOfSettings() {
  ServiceSetup setup = anyPort();
  setup.token = "a-long-secret-of-the-loft";
  const Service service(std::make_shared<StandinEngine>(), setup, {});
  auto& with = const_cast<Service&>(service);
  ask("loft", QString("http://127.0.0.1:%1").arg(with.port()), "wrong-secret-of-somebody");
  auto& said = part<QLabel>("service said");
  QTRY_VERIFY(said.text().contains("token"));
  QVERIFY(!said.text().contains("wrong-secret"));
  auto* panel = window_->findChild<QFrame*>("address panel");
  part<QLineEdit>("service token", panel).setText(QString::fromStdString(setup.token));
  click("add service", panel);
  QTRY_COMPARE_WITH_TIMEOUT(state().engine, std::string("loft"), 30'000);
  std::string token;
  bool read = false;
  readToken(window_.get(), "loft", [&](const std::string& kept) {
    token = kept;
    read = true;
  });
  QTRY_VERIFY(read);
  QCOMPARE(token, setup.token);
  // Nobody else may read it where it is in a file; the settings do not have it.
  const QString file = QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/tokens/loft";
  if (QFile::exists(file)) {
    const auto others = QFileDevice::ReadGroup | QFileDevice::ReadOther;
    QVERIFY((QFile::permissions(file) & others) == 0);
  }
  QSettings settings;
  settings.sync();
  for (const QString& key : settings.allKeys()) QVERIFY(!settings.value(key).toString().contains("a-long-secret"));
  forgetService(desk(), "loft");
  QVERIFY(!QFile::exists(file));
}

HSCAFFOLD_TEST(ServiceViewTest)
#include "service_view_test.moc"
