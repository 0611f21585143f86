#include "files/program_finder.h"

#include <fmt/format.h>

#include <QProcess>
#include <QTemporaryDir>

#include "core/image/colour.h"
#include "core/image/png.h"
#include "files/figure_files.h"

namespace hscaffold {

std::vector<pose::Figure> ProgramFinder::find(View<Rgb> picture, StopToken stop) {
  const QTemporaryDir folder;
  if (!folder.isValid()) throw failed("Could not make a folder for the picture to look at.");
  const QString file = folder.filePath("picture.png");
  writeFileAtomically(file.toStdString(), encodePng(toSrgb8(picture).view()));
  QProcess process;
  process.setProcessChannelMode(QProcess::SeparateChannels);
  process.start(QString::fromStdString(program_.string()), {file});
  if (!process.waitForStarted(10'000)) throw badInput(program_.string() + " could not be started.");
  constexpr int wait = 50;
  while (process.state() != QProcess::NotRunning && !process.waitForFinished(wait)) {
    if (!stop.stop_requested()) continue;
    process.kill();
    process.waitForFinished(2000);
    throw Cancelled();
  }
  if (process.exitStatus() != QProcess::NormalExit || process.exitCode() != 0) {
    const QString said = QString::fromUtf8(process.readAllStandardError()).trimmed().section('\n', -1).left(200);
    throw badInput(fmt::format("{} ended with an error{}.", name(), said.isEmpty() ? "" : ": " + said.toStdString()));
  }
  const QByteArray text = process.readAllStandardOutput();
  const auto read = figuresFromFile(std::as_bytes(std::span(text.constData(), static_cast<std::size_t>(text.size()))),
                                    "What " + name() + " wrote", {picture.width(), picture.height()});
  std::vector<pose::Figure> figures;
  for (const auto& figure : read.figures.figures) figures.push_back(*figure);
  return figures;
}

}  // namespace hscaffold
