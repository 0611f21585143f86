/// Pictures and maps of the open study: references decoded and placed, maps of guides, hand work shown while it is
/// done. Everything is made in the background and announced.
#pragma once

#include <any>

#include <QImage>
#include <QObject>
#include <QRect>
#include <map>
#include <memory>
#include <span>
#include <string>

#include "app/maps/map_picture.h"
#include "core/guide_map.h"
#include "core/pose/figure.h"
#include "core/study/changes.h"
#include "files/map_files.h"

namespace hscaffold {
struct Reference;
}

namespace hscaffold::app {

class StudyDocument;
class TaskRunner;

class MapRoom : public QObject {
  Q_OBJECT
 public:
  MapRoom(StudyDocument& document, TaskRunner& tasks, QObject* parent = nullptr);
  ~MapRoom() override;

  [[nodiscard]] QImage referenceImage(const std::string& reference) const;  ///< null until decoded
  [[nodiscard]] QImage placedImage(const std::string& reference) const;     ///< frame size, null until made
  /// The placed reference as last made; null if there is none yet.
  [[nodiscard]] std::shared_ptr<const Image<Rgb>> placedPicture(const std::string& reference) const;
  /// A picture that was decoded elsewhere, and how it is shown.
  struct Decoded {
    std::shared_ptr<const Image<Rgba16>> picture;
    QImage display;
  };
  /// For a thread of its own: a large picture takes a while to be made small.
  static Decoded decoded(Image<Rgba16> picture);
  /// A reference's picture, before its reference is in the study.
  void give(const std::string& reference, const std::string& source, Decoded picture);
  /// All decoded pictures there are, by `Reference::source`.
  [[nodiscard]] std::map<std::string, std::shared_ptr<const Image<Rgba16>>> pictures() const;

  [[nodiscard]] const MapPicture* mapOf(const std::string& guide) const;
  [[nodiscard]] std::map<std::string, MapFacts> facts() const;
  /// Without retouch and region; null until made, or while it is of another frame.
  [[nodiscard]] std::shared_ptr<const Map> belowOf(const std::string& guide) const;
  /// What writes a guide's map as it is now, by the ending of the file; on any thread. @throws Problem if there is none
  [[nodiscard]] std::function<void()> writer(const std::string& id, const std::filesystem::path& file,
                                             const MapFileForm& form = {});

  /// Shows unfinished hand work: layers that are not in the state yet, over one part. Maps that come from the
  /// background are held back until `endLive`.
  void showLive(const std::string& guide, const Layer* retouch, const Layer* region, const Box& part);
  void endLive(const std::string& guide);
  /// Shows the map as it would be with this piece of hand work in a slot; the newest is made, those before it are given
  /// up. Without one, the map comes back as the study has it.
  void showTrial(const std::string& guide, const std::string& slot, std::any piece);
  void endTrial(const std::string& guide);
  /// The same for figures: they are drawn anew where one of them moves.
  void showLiveFigures(const std::string& guide, View<Rgb8> behind, std::span<const pose::FigureMarks> figures,
                       const Box& part);
  /// A guide's figures as they lie in the frame now; null for other kinds.
  [[nodiscard]] std::shared_ptr<const pose::Figures> figuresOf(const Guide& guide);
  [[nodiscard]] const pose::Inks& inksOf(const Guide& guide);

 signals:
  void picturesChanged();
  void mapChanged(const QString& guide);
  void mapPartChanged(const QString& guide, const QRect& part);
  void factsChanged(const QString& guide);
  void problem(const QString& sentence);

 private:
  struct ReferencePicture;
  struct GuideMaps;
  void forgetAll();
  void follow(const Changes& changes);
  void requestReference(const Reference& reference);
  void requestPlacing(const Reference& reference);
  void requestMap(const Guide& guide);
  void makeMap(const Guide& guide, std::uint64_t below, std::uint64_t placing,
               std::shared_ptr<const Image<Rgb>> picture, const TakenWork& taken);
  void requestFacts(const std::string& guide, std::shared_ptr<const GuideInput> input,
                    std::shared_ptr<const Extraction> details);

  StudyDocument& document_;
  TaskRunner& tasks_;
  std::map<std::string, ReferencePicture> pictures_;
  std::map<std::string, GuideMaps> maps_;
  std::string live_;  ///< guide on which a stroke is being drawn
};

}  // namespace hscaffold::app
