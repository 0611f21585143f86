// Networks of an artist's own: read, run, refused with a reason; and what depth makes of their answers.
#include "core/networks/network.h"

#include <QTest>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/depth/depth.h"
#include "core/guide_map.h"
#include "core/image/colour.h"
#include "core/networks/tiny_networks.h"
#include "fixtures.h"
#include "test_program.h"

using namespace hscaffold;
using namespace fixtures;
using networks::InputForm;
using networks::Network;

namespace {

constexpr int width = 32, height = 24;
const std::string sides = R"("width": 32, "height": 24)";

Network read(const onnx::ModelProto& model) {
  const std::string file = model.SerializeAsString();
  return {std::as_bytes(std::span(file)), "tiny.onnx"};
}

/// Red from left to right, green from top to bottom, as they look (sRGB-encoded), no blue.
Image<Rgb> slopes() {
  Image<Rgb> out(width * 4, height * 4);
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x)
      out(x, y) = {srgbToLinear((static_cast<float>(x) + 0.5f) / static_cast<float>(out.width())),
                   srgbToLinear((static_cast<float>(y) + 0.5f) / static_cast<float>(out.height())), 0};
  return out;
}

float at(const networks::Tensor& tensor, int x, int y, int plane = 0) {
  return tensor.values[static_cast<std::size_t>((plane * height + y) * width + x)];
}

/// Near is what is red.
std::filesystem::path redIsNear(const QTemporaryDir& folder, const std::string& means = "nearness") {
  return writeNetwork(folder.path().toStdString(), "red", weighing(width, height, {{1, 0, 0}}),
                      "{" + sides + R"(, "means": ")" + means + "\"}");
}

}  // namespace

class NetworksTest : public QObject {
  Q_OBJECT
 private slots:
  void picturesComeInAsTheFormSays();
  void answersAreWhatTheLayersSay();
  void convolutionsAreWhatTheyAre_data();
  void convolutionsAreWhatTheyAre();
  void halvesAreWidened();
  void whatCannotBeComputedIsSaidAndHarmless();
  void whatDoesNotFitIsSaidBeforeItRuns();
  void partsComeInOrder();
  void stopsAtOnce();
  void cutOffFilesAreRefused();
  void estimatesTakeEitherMeaning();
  void whatIsNoNumberIsNotKnown();
  void descriptionsAreChecked();
  void estimatesFollowTheirReferenceAndFile();
  void anEstimateIsOneMoreCueUnderTheHints();
};

void NetworksTest::picturesComeInAsTheFormSays() {
  const auto picture = slopes();
  const auto rgb = networks::inputFrom(picture, {{width, height}});
  QCOMPARE(rgb.shape, (std::vector<int>{1, 3, height, width}));
  QVERIFY(std::abs(at(rgb, 24, 3) - 24.5f / width) < 0.01f);
  QVERIFY(std::abs(at(rgb, 24, 3, 1) - 3.5f / height) < 0.01f);
  const auto bgr = networks::inputFrom(picture, {{width, height}, InputForm::Channels::bgr});
  QCOMPARE(at(bgr, 24, 3, 2), at(rgb, 24, 3));
  const auto set = networks::inputFrom(
      picture, {{width, height}, InputForm::Channels::rgb, {0.5f, 0.5f, 0.5f}, {0.25f, 0.25f, 0.25f}});
  QVERIFY(std::abs(at(set, 24, 3) - (at(rgb, 24, 3) - 0.5f) * 4) < 1e-5f);
  const auto light = networks::inputFrom(picture, {{width, height}, InputForm::Channels::light});
  QCOMPARE(light.shape, (std::vector<int>{1, 1, height, width}));
  QVERIFY(at(light, 24, 20) > at(light, 24, 3) && at(light, 24, 3) > at(light, 4, 3));
}

void NetworksTest::answersAreWhatTheLayersSay() {
  const auto input = networks::inputFrom(slopes(), {{width, height}});
  auto network = read(weighing(width, height, {{0.5f, -2, 0}, {0, 0.25f, 1}}));
  const auto answers = network.run(input);
  QCOMPARE(answers.size(), std::size_t{1});
  QCOMPARE(answers[0].shape, (std::vector<int>{1, 2, height, width}));
  for (int y = 0; y < height; y += 5)
    for (int x = 0; x < width; x += 7) {
      QVERIFY(std::abs(at(answers[0], x, y) - (0.5f * at(input, x, y) - 2 * at(input, x, y, 1))) < 1e-5f);
      QVERIFY(std::abs(at(answers[0], x, y, 1) - 0.25f * at(input, x, y, 1)) < 1e-5f);
    }
}

void NetworksTest::convolutionsAreWhatTheyAre_data() {
  QTest::addColumn<int>("kernel");
  QTest::addColumn<int>("stride");
  QTest::addColumn<int>("dilation");
  QTest::addColumn<bool>("rectified");
  QTest::newRow("plain") << 3 << 1 << 1 << false;
  QTest::newRow("stride 2, rectified") << 3 << 2 << 1 << true;
  QTest::newRow("1 x 1") << 1 << 1 << 1 << true;
  QTest::newRow("dilated") << 3 << 1 << 2 << true;
}

void NetworksTest::convolutionsAreWhatTheyAre() {
  QFETCH(int, kernel);
  QFETCH(int, stride);
  QFETCH(int, dilation);
  QFETCH(bool, rectified);
  Convolving how{5, kernel, stride, dilation, rectified};
  for (int i = 0; i < how.outputs * 3 * kernel * kernel; ++i)
    how.weights.push_back(std::sin(1.7f * static_cast<float>(i)));
  for (int i = 0; i < how.outputs; ++i) how.offsets.push_back(0.3f * std::cos(static_cast<float>(i)));
  auto network = read(convolving(width, height, how));
  // One network is asked at several sizes, and comes back to the first.
  for (const auto& [w, h] : {std::pair{width, height}, {21, 13}, {width, height}}) {
    networks::Tensor input{{1, 3, h, w}, {}};
    for (int i = 0; i < 3 * w * h; ++i) input.values.push_back(std::cos(0.37f * static_cast<float>(i)));
    const auto answer = network.run(input).front();
    const int across = (w + 2 - dilation * (kernel - 1) - 1) / stride + 1,
              down = (h + 2 - dilation * (kernel - 1) - 1) / stride + 1;
    QCOMPARE(answer.shape, (std::vector<int>{1, how.outputs, down, across}));
    std::size_t at = 0;
    for (int o = 0; o < how.outputs; ++o)
      for (int y = 0; y < down; ++y)
        for (int x = 0; x < across; ++x) {
          float sum = how.offsets[static_cast<std::size_t>(o)];
          for (int c = 0; c < 3; ++c)
            for (int ky = 0; ky < kernel; ++ky)
              for (int kx = 0; kx < kernel; ++kx) {
                const int ix = x * stride + kx * dilation - 1, iy = y * stride + ky * dilation - 1;
                if (ix < 0 || iy < 0 || ix >= w || iy >= h) continue;
                sum += how.weights[static_cast<std::size_t>(((o * 3 + c) * kernel + ky) * kernel + kx)] *
                       input.values[static_cast<std::size_t>((c * h + iy) * w + ix)];
              }
          if (rectified) sum = std::max(0.0f, sum);
          QVERIFY2(std::abs(answer.values[at] - sum) < 1e-4f,
                   qPrintable(QString("%1 instead of %2").arg(answer.values[at]).arg(sum)));
          ++at;
        }
  }
}

void NetworksTest::halvesAreWidened() {
  const auto input = networks::inputFrom(slopes(), {{width, height}});
  const std::vector<std::vector<float>> weights = {{0.5f, -2, 0.375f}};
  auto wide = read(weighing(width, height, weights)), narrow = read(weighingInHalves(width, height, weights));
  QCOMPARE(narrow.run(input)[0].values, wide.run(input)[0].values);
}

void NetworksTest::whatCannotBeComputedIsSaidAndHarmless() {
  const auto input = networks::inputFrom(slopes(), {{width, height}});
  // In our own words, whatever the library says.
  QCOMPARE(problemOf([] { read(layer(width, height, "Whatever")); }),
           QString("tiny.onnx cannot be computed here: part 1 (Whatever) is of a kind that is not known."));
  // Channels that the weights do not expect.
  auto network = read(weighing(width, height, {{1, 1, 1}}));
  networks::Tensor grey{{1, 1, height, width}, std::vector<float>(static_cast<std::size_t>(width * height))};
  QCOMPARE(problemOf([&] { network.run(grey); }), QString("tiny.onnx does not fit an input of 1 x 1 x 24 x 32."));
  QCOMPARE(network.run(input).size(), std::size_t{1});
  // Far more planes than memory is allowed for.
  auto large = read(weighing(2048, 2048, std::vector<std::vector<float>>(200, {1, 0, 0})));
  QVERIFY(problemOf([&] { large.run(networks::inputFrom(slopes(), {{2048, 2048}})); }).contains("GiB"));
  // 2048 x 2048 x 256 numbers are 4 GiB, which is 0 in 32 bits.
  auto wrapping = read(weighing(2048, 2048, std::vector<std::vector<float>>(256, {1, 0, 0})));
  QVERIFY(problemOf([&] { wrapping.run(networks::inputFrom(slopes(), {{2048, 2048}})); }).contains("GiB"));
}

void NetworksTest::whatDoesNotFitIsSaidBeforeItRuns() {
  const auto said = [](const auto& change) {
    Convolving how;
    how.weights.assign(4 * 3 * 9, 0.1f);
    how.offsets.assign(4, 0.5f);
    auto model = convolving(width, height, how);
    change(*model.mutable_graph());
    return problemOf([&] { read(model); });
  };
  const auto numbersOf = [](onnx::GraphProto& graph, const char* name) -> onnx::AttributeProto& {
    for (auto& attribute : *graph.mutable_node(0)->mutable_attribute())
      if (attribute.name() == name) return attribute;
    throw std::logic_error(name);
  };
  QCOMPARE(said([](onnx::GraphProto&) {}), QString());
  QVERIFY(said([&](auto& graph) { numbersOf(graph, "strides").set_ints(0, 0); }).contains("strides of 0"));
  QVERIFY(said([&](auto& graph) { numbersOf(graph, "kernel_shape").set_ints(1, -3); }).contains("kernel_shape of -3"));
  QVERIFY(said([](auto& graph) {
            auto& group = *graph.mutable_node(0)->add_attribute();
            group.set_name("group");
            group.set_type(onnx::AttributeProto::INT);
            group.set_i(0);
          }).contains("0 groups"));
  QVERIFY(said([](auto& graph) {
            graph.mutable_initializer(0)->mutable_float_data()->RemoveLast();
          }).contains("108 numbers, but there are 107"));
  QVERIFY(said([](auto& graph) {
            graph.mutable_initializer(1)->set_dims(0, 3);
            graph.mutable_initializer(1)->mutable_float_data()->RemoveLast();
          }).contains("offsets for 3"));
  // A product that wraps is no small number.
  QVERIFY(said([](auto& graph) {
            graph.mutable_initializer(0)->set_dims(0, std::int64_t{1} << 40);
            graph.mutable_initializer(0)->set_dims(1, std::int64_t{1} << 40);
          }).contains("cannot be"));
}

void NetworksTest::partsComeInOrder() {
  const auto said = [](const auto& change) {
    auto model = weighing(width, height, {{1, 2, 3}});
    change(*model.mutable_graph());
    return problemOf([&] { read(model); });
  };
  QCOMPARE(said([](onnx::GraphProto&) {}), QString());
  // Round in a circle, made twice, made by nobody, and a network in a network.
  QVERIFY(said([](auto& graph) {
            auto& node = *graph.mutable_node(0);
            node.set_input(0, node.output(0));
          }).contains("not made before it"));
  QVERIFY(said([](auto& graph) { *graph.add_node() = graph.node(0); }).contains("there already"));
  QVERIFY(said([](auto& graph) { graph.mutable_output(0)->set_name("nobody"); }).contains("made by none"));
  QVERIFY(said([](auto& graph) {
            auto& inside = *graph.mutable_node(0)->add_attribute();
            inside.set_name("body");
            inside.set_type(onnx::AttributeProto::GRAPH);
            *inside.mutable_g() = onnx::GraphProto();
          }).contains("network inside"));
}

void NetworksTest::stopsAtOnce() {
  // Some seconds of work: convolutions one after another.
  constexpr int side = 1024;
  Convolving how;
  how.outputs = 3;
  how.weights.assign(3 * 3 * 9, 0.1f);
  how.offsets.assign(3, 0.5f);
  auto model = convolving(side, side, how);
  auto& graph = *model.mutable_graph();
  const auto first = graph.node(0);
  const std::string answer = graph.output(0).name();
  for (int i = 0; i < 60; ++i) {
    auto& node = *graph.add_node() = first;
    node.set_input(0, i == 0 ? answer : "more" + std::to_string(i - 1));
    node.set_output(0, "more" + std::to_string(i));
  }
  graph.mutable_output(0)->set_name("more59");
  auto network = read(model);
  const auto input = networks::inputFrom(slopes(), {{side, side}});
  std::stop_source source;
  QElapsedTimer timer;
  std::thread stops([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    timer.start();
    source.request_stop();
  });
  QVERIFY_EXCEPTION_THROWN(network.run(input, source.get_token()), Cancelled);
  QVERIFY2(timer.elapsed() < 200, qPrintable(QString::number(timer.elapsed())));
  stops.join();
  QVERIFY_EXCEPTION_THROWN(network.run(input, fixtures::stopped()), Cancelled);
  // It can be asked again, and a stop that nobody asks for changes nothing.
  auto small = read(weighing(width, height, {{1, 2, 3}}));
  const auto few = networks::inputFrom(slopes(), {{width, height}});
  QCOMPARE(small.run(few, std::stop_source().get_token())[0].values, small.run(few)[0].values);
}

void NetworksTest::cutOffFilesAreRefused() {
  const std::string whole = weighing(width, height, {{1, 2, 3}}).SerializeAsString();
  int refused = 0;
  for (std::size_t length = 0; length < whole.size(); length += 3) {
    const auto said = problemOf([&] {
      Network network(std::as_bytes(std::span(whole.data(), length)), "cut.onnx");
      network.run(networks::inputFrom(slopes(), {{width, height}}));
    });
    if (!said.isEmpty()) {
      QVERIFY2(said.startsWith("cut.onnx"), qPrintable(said));
      ++refused;
    }
  }
  QCOMPARE(refused, static_cast<int>((whole.size() + 2) / 3));
  const std::string text = "not a network at all";
  QVERIFY(problemOf([&] { Network(std::as_bytes(std::span(text)), "text.onnx"); }).contains("text.onnx"));
}

void NetworksTest::estimatesTakeEitherMeaning() {
  const QTemporaryDir folder;
  const auto picture = slopes();
  const auto near = depth::Estimator(redIsNear(folder)).estimate(picture, {});
  QCOMPARE(near.by, std::string("red"));
  QCOMPARE(near.frame, picture.size());
  QVERIFY(near.near(30, 12) > 0.9f && near.near(1, 12) < 0.1f);
  const auto far = depth::Estimator(redIsNear(folder, "distance")).estimate(picture, {});
  QVERIFY(far.near(30, 12) < 0.1f && far.near(0, 12) > 0.9f);
  // An answer without range says nothing of order, and is no trouble.
  const auto flat =
      depth::Estimator(writeNetwork(folder.path().toStdString(), "blue", weighing(width, height, {{0, 0, 1}}),
                                    "{" + sides + R"(, "means": "nearness"})"))
          .estimate(picture, {});
  QCOMPARE(flat.near(3, 3), 0.5f);
}

void NetworksTest::whatIsNoNumberIsNotKnown() {
  const QTemporaryDir folder;
  // Distances below nothing where red is less than half.
  auto form = "{" + sides + R"(, "mean": 0.5, "means": "distance"})";
  form.replace(form.find("0.5"), 3, "[0.5]");
  const auto network = writeNetwork(folder.path().toStdString(), "half", weighing(width, height, {{1, 0, 0}}), form);
  const auto made = depth::Estimator(network).estimate(slopes(), {});
  QVERIFY(made.near(4, 12) < 0);
  QVERIFY(made.near(30, 12) >= 0 && made.near(30, 12) < made.near(17, 12));
  const auto seen = depth::seenIn(slopes());
  const auto cue = depth::estimateCue(made, seen);
  for (std::size_t i = 0; i < cue.near.size(); ++i) {
    if (seen.x[i] < 0.4f) QCOMPARE(cue.sure[i], 0.0f);
    if (seen.x[i] > 0.6f) QCOMPARE(cue.sure[i], 1.0f);
  }
}

void NetworksTest::descriptionsAreChecked() {
  const QTemporaryDir folder;
  const std::filesystem::path in = folder.path().toStdString();
  const auto said = [&](const std::string& description, const onnx::ModelProto& model) {
    const auto file = writeNetwork(in, "some", model, description);
    const auto out = problemOf([&] { depth::Estimator(file).estimate(slopes(), {}); });
    std::filesystem::remove(in / "some.json");
    return out;
  };
  const auto good = weighing(width, height, {{1, 0, 0}});
  QVERIFY(said("", good).contains("some.json"));
  QVERIFY(said("{" + sides + "}", good).contains("means"));
  QVERIFY(said("{" + sides + R"(, "means": "colour"})", good).contains("nearness"));
  QVERIFY(said(R"({"width": 4, "height": 24, "means": "nearness"})", good).contains("width"));
  QVERIFY(said("{" + sides + R"(, "means": "nearness", "deviation": [0]})", good).contains("deviation"));
  QVERIFY(said("{" + sides + R"(, "means": "nearness", "channels": "cmyk"})", good).contains("channels"));
  QVERIFY(said("{", good).contains("description"));
  // Two planes are no depth.
  QVERIFY(said("{" + sides + R"(, "means": "nearness"})", weighing(width, height, {{1, 0, 0}, {0, 1, 0}}))
              .contains("1 x 2 x 24 x 32"));
}

void NetworksTest::estimatesFollowTheirReferenceAndFile() {
  depth::Estimate made{{320, 240}, Affine{}, "me", Image<float>(32, 24)};
  for (int y = 0; y < 24; ++y)
    for (int x = 0; x < 32; ++x) made.near(x, y) = static_cast<float>(x) / 31;
  made.near(31, 23) = -1;
  const auto& form = depth::estimateForm();
  const std::any piece = std::shared_ptr<const depth::Estimate>(
      std::make_shared<const depth::Estimate>(following(made, made.frame, made.placing)));
  const auto again = std::any_cast<std::shared_ptr<const depth::Estimate>>(form.read(form.write(piece)));
  QCOMPARE(again->frame, made.frame);
  QCOMPARE(again->by, made.by);
  QVERIFY(again->near(31, 23) < 0);
  for (int x = 0; x < 31; ++x) QVERIFY(std::abs(again->near(x, 5) - made.near(x, 5)) < 1e-3f);
  // The reference moves right by a quarter of the frame: so does what is known of it, and nothing is known of the rest.
  Affine moved;
  moved.c = 80;
  const auto now = following(made, made.frame, moved);
  const double pixel = 320.0 / now.near.width();
  const auto value = [&](double x) { return now.near(static_cast<int>(x / pixel), now.near.height() / 2); };
  QVERIFY(value(40) < 0);
  QVERIFY(std::abs(value(200) - 120.0f / 320) < 0.03f);
  // A larger frame of the same picture shows the same.
  Affine twice;
  twice.a = twice.e = 2;
  const auto larger = following(made, {640, 480}, twice);
  QVERIFY(std::abs(larger.near(larger.near.width() / 2, larger.near.height() / 2) - 0.5f) < 0.03f);
  QVERIFY(!problemOf([&] {
             form.read(R"({"width": 10, "height": 10, "across": 2, "down": 2, "near": [1, 2]})");
           }).isEmpty());
}

void NetworksTest::anEstimateIsOneMoreCueUnderTheHints() {
  const QTemporaryDir folder;
  // An even wall with a slope of red that only a network would take for depth.
  Image<Rgb> wall(192, 144);
  for (int y = 0; y < wall.height(); ++y)
    for (int x = 0; x < wall.width(); ++x) wall(x, y) = {0.2f + 0.2f * static_cast<float>(x) / 192, 0.3f, 0.3f};
  const Kind& kind = kindOf("depth");
  ExtractionCache cache;
  const auto make = [&](const GuideWork& work) {
    return kind.make({wall, {wall.size(), {}}, {}, work}, cache, {}).map;
  };
  const auto left = [](const Map& map) { return map(20, 72) / 65535.0; };
  const auto right = [](const Map& map) { return map(172, 72) / 65535.0; };
  const auto before = make({});
  QVERIFY(std::abs(left(before) - right(before)) < 0.1);
  GuideWork work;
  work.put(depth::estimateSlot,
           std::make_shared<const depth::Estimate>(depth::Estimator(redIsNear(folder)).estimate(wall, {})));
  const auto guessed = make(work);
  QVERIFY(right(guessed) > left(guessed) + 0.3);
  depth::Hints hints{wall.size(), {}, {{depth::Hint::Form::level, {{10, 60}, {30, 84}}, 16, 1.0, 0.5}}};
  work.put(depth::hintsSlot, std::make_shared<const depth::Hints>(hints));
  const auto hinted = make(work);
  QVERIFY(left(hinted) > left(guessed) + 0.3);
  QCOMPARE(make({}), before);
}

HSCAFFOLD_TEST(NetworksTest)
#include "networks_test.moc"
