#include "app/finish/export_final.h"

#include <QFileDialog>

#include "app/desk.h"
#include "app/images.h"
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
  FinalExport form;
  form.sixteenBits = offer->sixteen;
  if (path.endsWith(".ora", Qt::CaseInsensitive))
    for (const Guide& guide : desk.document.state().guides)
      if (const MapPicture* map = guide.on ? desk.maps.mapOf(guide.id) : nullptr; map != nullptr && !map->grey.isNull())
        form.maps.push_back({"map: " + guide.name, fromQImage(map->grey)});
  desk.write(path, [final = *now, shownPictures = desk.finals.shownPictures(), read = desk.document.pictureReader(),
                    file = path.toStdString(), form = std::make_shared<const FinalExport>(std::move(form))] {
    writeFileAtomically(file, finalFile(final, shownPictures, read, file, *form));
  });
}

}  // namespace hscaffold::app
