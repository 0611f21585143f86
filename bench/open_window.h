/// A window on a study with one reference, for measuring.
#pragma once

#include <benchmark/benchmark.h>

#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <memory>
#include <vector>

#include "app/desk.h"
#include "app/document/study_edits.h"
#include "app/main_window.h"
#include "app/theme/theme.h"
#include "core/image/colour.h"
#include "core/image/png.h"
#include "scenes.h"

namespace hscaffold::app {

struct Open {
  QTemporaryDir home;
  Desk desk;
  std::unique_ptr<MainWindow> window;

  explicit Open(Size frame) {
    qputenv("XDG_DATA_HOME", home.path().toUtf8());
    qputenv("XDG_CONFIG_HOME", home.path().toUtf8());
    applyTheme(ThemeName::dusk);
    window = std::make_unique<MainWindow>(desk);
    desk.document.createUntitled();
    desk.document.change("Frame", [&](StudyState& s) { s.frame = frame; });
    const auto picture = home.filePath("tea.png").toStdString();
    writeFileAtomically(picture, encodePng(toSrgb8(almanac::photograph(almanac::teaHouse(), {512, 512}, 3)).view()));
    bringIn(desk, {picture});
    window->show();
    const auto ready = [&] {
      const auto& guides = desk.document.state().guides;
      return desk.idle() && !guides.empty() && desk.maps.mapOf(guides[0].id) != nullptr;
    };
    while (!ready()) QTest::qWait(5);
    QTest::qWait(50);
  }
};

inline void percentiles(benchmark::State& state, std::vector<double> times) {
  std::sort(times.begin(), times.end());
  state.counters["p50_ms"] = times[times.size() / 2];
  state.counters["p95_ms"] = times[times.size() * 95 / 100];
  state.counters["worst_ms"] = times.back();
}

}  // namespace hscaffold::app
