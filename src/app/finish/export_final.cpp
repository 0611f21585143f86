#include "app/finish/export_final.h"

#include <QFileDialog>

#include "app/desk.h"
#include "files/final_files.h"

namespace hscaffold::app {
namespace {

struct FinalFormat {
  const char *text, *ending;
  bool sixteen;
};
constexpr FinalFormat finalFormats[] = {{"PNG, 8 bits, with all recipes (*.png)", ".png", false},
                                        {"PNG, 16 bits, with all recipes (*.png)", ".png", true},
                                        {"JPEG (*.jpg)", ".jpg", false},
                                        {"WebP (*.webp)", ".webp", false},
                                        {"TIFF, 8 bits (*.tif)", ".tif", false},
                                        {"TIFF, 16 bits (*.tif)", ".tif", true},
                                        {"OpenRaster: touch-ups and maps as layers (*.ora)", ".ora", false}};

}  // namespace

void askExportFinal(Desk& desk, const std::string& id, QWidget* parent) {
  const Final* shown = desk.document.state().final(id);
  if (shown == nullptr) return;
  QStringList filters;
  for (const FinalFormat& offer : finalFormats) filters << offer.text;
  QString chosen;
  QString path =
      QFileDialog::getSaveFileName(parent, "Export final", QString::fromStdString(desk.document.state().title) + ".png",
                                   filters.join(";;"), &chosen);
  // The final may have gone while the dialog was open.
  const Final* now = desk.document.state().final(id);
  if (path.isEmpty() || now == nullptr) return;
  const FinalFormat* offer = &finalFormats[0];
  for (const FinalFormat& each : finalFormats)
    if (chosen == each.text) offer = &each;
  try {
    checkFinalName(path.toStdString());
  } catch (const Problem&) {
    path += offer->ending;
  }
  try {
    std::function<FinalMaps(const StopToken&)> maps;
    if (path.endsWith(".ora", Qt::CaseInsensitive)) maps = desk.finals.mapMaker(*now);
    desk.writeAndTell(
        path, [final = *now, pictures = desk.finals.shownPictures(), read = desk.document.pictureReader(),
               file = path.toStdString(), sixteen = offer->sixteen, maps = std::move(maps)](const StopToken& stop) {
          const FinalMaps made = maps ? maps(stop) : FinalMaps();
          FinalExport form;
          form.sixteenBits = sixteen;
          form.maps = layersOf(made);
          writeFileAtomically(file, finalFile(final, pictures, read, file, form));
          return made.notes;
        });
  } catch (const Problem& problem) {
    emit desk.problem(problem.what());
  }
}

void askExportFinalMaps(Desk& desk, const std::string& id, QWidget* parent) {
  const Final* shown = desk.document.state().final(id);
  if (shown == nullptr) return;
  const QString path =
      QFileDialog::getSaveFileName(parent, "Export all maps: name of a new folder",
                                   QString::fromStdString(desk.document.state().title) + " maps", {}, nullptr,
                                   QFileDialog::DontConfirmOverwrite);  // nothing is written over
  const Final* now = desk.document.state().final(id);
  if (path.isEmpty() || now == nullptr) return;
  try {
    desk.writeAndTell(path, [maps = desk.finals.mapMaker(*now), folder = path.toStdString()](const StopToken& stop) {
      const FinalMaps made = maps(stop);
      writeMapFolder(folder, made);
      return made.notes;
    });
  } catch (const Problem& problem) {
    emit desk.problem(problem.what());
  }
}

}  // namespace hscaffold::app
