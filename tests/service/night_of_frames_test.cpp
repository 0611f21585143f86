// Frames of a storyboard through one recipe overnight: several engines behind one address, workers and a machine that
// die in the middle; in the morning all of them are there, once each, with their recipes.
#include <httplib.h>

#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <nlohmann/json.hpp>
#include <thread>

#include "core/brief/recipe.h"
#include "core/image/png.h"
#include "files/batch.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
namespace fs = std::filesystem;

namespace {

constexpr int frames = 12;

/// One address before several services: new jobs go round, what is asked of a job goes to the service whose name its id
/// begins with; where that one is gone another answers. Every third stream breaks off.
class Front {
 public:
  explicit Front(std::map<std::string, int> ports) : ports_(std::move(ports)) {
    server_.Get("/v1/engine",
                [this](const httplib::Request& request, httplib::Response& response) { ask(request, response, {}); });
    server_.Post("/v1/jobs",
                 [this](const httplib::Request& request, httplib::Response& response) { ask(request, response, {}); });
    server_.Get(R"(/v1/jobs/([\w.-]+)/events)", [this](const httplib::Request& request, httplib::Response& response) {
      httplib::Headers headers;
      if (request.has_header("Last-Event-ID"))
        headers.emplace("Last-Event-ID", request.get_header_value("Last-Event-ID"));
      for (const int port : orderFor(request.matches[1])) {
        httplib::Client client("127.0.0.1", port);
        // Whether it is there shows before its stream begins.
        if (!client.Get("/health")) continue;
        // Every third line is cut in the middle, as networks do.
        const bool isCut = ++streams_ % 3 == 0;
        response.set_chunked_content_provider(
            "text/event-stream", [port, isCut, path = request.path, headers](std::size_t, httplib::DataSink& sink) {
              httplib::Client stream("127.0.0.1", port);
              int pieces = 0;
              const auto result = stream.Get(path, headers, [&](const char* data, std::size_t length) {
                return !(isCut && ++pieces > 1) && sink.write(data, length);
              });
              if (!result || result->status != 200) return false;  // cut off, as it was behind
              sink.done();
              return true;
            });
        return;
      }
      response.status = 502;
    });
    const auto ofJob = [this](const httplib::Request& request, httplib::Response& response) {
      ask(request, response, request.matches[1]);
    };
    server_.Get(R"(/v1/jobs/([\w.-]+)(/.*)?)", ofJob);
    server_.Delete(R"(/v1/jobs/([\w.-]+))", ofJob);
    port_ = server_.bind_to_any_port("127.0.0.1");
    thread_ = std::jthread([this] { server_.listen_after_bind(); });
    while (!server_.is_running()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  ~Front() { server_.stop(); }
  [[nodiscard]] int port() const { return port_; }

 private:
  /// Who has the job first, else whoever is next.
  std::vector<int> orderFor(const std::string& id) {
    std::vector<int> order;
    for (const auto& [name, port] : ports_)
      if (id.starts_with(name + "-"))
        order.insert(order.begin(), port);
      else
        order.push_back(port);
    if (id.empty() && next_++ % 2 == 1) std::reverse(order.begin(), order.end());
    return order;
  }
  void ask(const httplib::Request& request, httplib::Response& response, const std::string& id) {
    httplib::MultipartFormDataItems parts;
    for (const auto& [name, file] : request.files) parts.push_back(file);
    httplib::Headers headers;
    if (request.has_header("Idempotency-Key"))
      headers.emplace("Idempotency-Key", request.get_header_value("Idempotency-Key"));
    for (const int port : orderFor(id)) {
      httplib::Client client("127.0.0.1", port);
      const auto result = request.method == "POST"     ? client.Post(request.path, headers, parts)
                          : request.method == "DELETE" ? client.Delete(request.path)
                                                       : client.Get(request.path);
      if (!result) continue;
      response.status = result->status;
      response.set_content(result->body, result->get_header_value("Content-Type"));
      return;
    }
    response.status = 502;
  }

  std::map<std::string, int> ports_;
  std::atomic<int> next_ = 0, streams_ = 0;
  httplib::Server server_;
  int port_ = 0;
  std::jthread thread_;
};

/// hscaffold-engine on any port.
struct Machine {
  explicit Machine(const QString& name) {
    process.start(HSCAFFOLD_ENGINE, {"--port", "0", "--name", name});
    QString said;
    while (!said.contains('\n') && process.waitForReadyRead(20'000))
      said += QString::fromUtf8(process.readAllStandardOutput());
    port = said.trimmed().section(':', -1).section('/', 0, 0).toInt();
  }
  QProcess process;
  int port = 0;
};

}  // namespace

class NightOfFramesTest : public QObject {
  Q_OBJECT
 private slots:
  void allOfThemOnceEach();
};

void NightOfFramesTest::allOfThemOnceEach() {
  const QTemporaryDir folder;
  const fs::path root = folder.path().toStdString(), night = root / "night";
  const auto q = [](const fs::path& path) { return QString::fromStdString(path.string()); };
  QStringList references;
  for (int i = 0; i < frames; ++i) {
    Image<Rgb8> picture(192, 128, Rgb8{30, 60, 90});
    for (int y = 30; y < 100; ++y)
      for (int x = 30 + 6 * i; x < 90 + 6 * i; ++x) picture(x, y) = {200, 120, 40};
    references << q(root / ("frame " + std::to_string(i) + ".png"));
    writeFileAtomically(references.back().toStdString(), encodePng(picture.view()));
  }
  const auto command = [](const QStringList& words) {
    QProcess process;
    process.start(HSCAFFOLD_PROGRAM, words);
    return process.waitForFinished(60'000) && process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1;
  };
  const QString study = q(root / "storyboard.scaffold");
  QCOMPARE(command({"study", "new", study, "--size", "192x128", "--reference", references[0], "--guide", "edges=0.9",
                    "--prompt", "a kite over a dune, gouache", "--seed", "31"}),
           0);
  QCOMPARE(command(QStringList{"batch", "plan", study, "-o", q(night), "--references"} + references), 0);

  Machine north("north"), south("south");
  QVERIFY(north.port > 0 && south.port > 0);
  const Front front({{"north", north.port}, {"south", south.port}});
  const QStringList run{
      "batch", "run", q(night), "--patience", "2", "--address", "http://127.0.0.1:" + QString::number(front.port())};
  const auto done = [&] {
    const auto items = batchItems(night);
    return std::count_if(items.begin(), items.end(),
                         [](const BatchItem& item) { return item.state == BatchItem::State::done; });
  };
  std::vector<std::unique_ptr<QProcess>> workers;
  const auto begin = [&] {
    workers.push_back(std::make_unique<QProcess>());
    workers.back()->start(HSCAFFOLD_PROGRAM, run);
  };
  for (int i = 0; i < 3; ++i) begin();
  QTRY_VERIFY_WITH_TIMEOUT(done() >= 2, 60'000);
  // A machine dies, and a worker with it.
  south.process.kill();
  workers.back()->kill();
  QTRY_VERIFY_WITH_TIMEOUT(done() >= 5, 60'000);
  begin();
  for (const auto& worker : workers)
    QVERIFY(worker->state() == QProcess::NotRunning || worker->waitForFinished(120'000));
  QCOMPARE(static_cast<int>(done()), frames);
  std::set<std::string> pictures;
  for (const BatchItem& item : batchItems(night)) {
    const std::string number = QString("%1").arg(item.number, 5, 10, QChar('0')).toStdString();
    QVERIFY(item.hold && item.engine.starts_with("stand-in"));
    // Once each: the log has one end of it, and as many beginnings as it says.
    std::istringstream lines(textOf(readWholeFile(night / "log" / (number + ".jsonl"))));
    int begun = 0, ended = 0;
    for (std::string line; std::getline(lines, line);) {
      const auto event = nlohmann::json::parse(line).at("event").get<std::string>();
      begun += event == "begun" ? 1 : 0;
      ended += event == "done" ? 1 : 0;
    }
    QCOMPARE(ended, 1);
    QCOMPARE(begun, item.retries + 1);
    // With its recipe: the pattern's, and its own picture.
    const auto proof = readWholeFile(night / "proofs" / (number + ".png"));
    const Recipe recipe = recipeFromTexts(readPngTexts(proof));
    QCOMPARE(recipe.brief.seed, 31U);
    QVERIFY(recipe.references.at(0).name == item.name);
    pictures.insert(textOf(proof));
  }
  QCOMPARE(static_cast<int>(pictures.size()), frames);
  QVERIFY(fs::exists(night / "table.csv") && fs::exists(night / "index.html"));
  north.process.terminate();
  QVERIFY(north.process.waitForFinished(10'000));
}

HSCAFFOLD_TEST(NightOfFramesTest)
#include "night_of_frames_test.moc"
