/// The pose library: poses by category and word, as pictures that are dragged onto the source table.
#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "app/document/own_list.h"
#include "app/workbench/pose/pose_work.h"
#include "core/pose/library.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QListView;
class QPushButton;
class QSlider;
class QStandardItemModel;

namespace hscaffold::app {

inline constexpr const char* poseMime = "application/x-humble-scaffold-pose+json";
/// What is dragged: a pose as it was seen. Empty if it is none.
std::optional<pose::Figure> figureFromMime(const QByteArray& data);

/// The artist's own poses, kept beside the settings.
class OwnPoses {
 public:
  OwnPoses();
  [[nodiscard]] const std::vector<pose::NamedPose>& list() const { return poses_.all(); }
  /// Each writes the file. @throws Problem
  void add(pose::NamedPose pose);
  void remove(std::size_t number);
  /// @return how many came in
  std::size_t importFrom(const std::filesystem::path& file);
  void exportTo(const std::filesystem::path& file) const;
  /// Why the file could not be read; empty if it could.
  [[nodiscard]] const QString& trouble() const { return poses_.trouble(); }

 private:
  OwnList<pose::NamedPose> poses_;
};

class PoseLibrary : public QWidget {
  Q_OBJECT
 public:
  explicit PoseLibrary(PoseWork& work, QWidget* parent = nullptr);
  [[nodiscard]] QListView& list() { return *list_; }
  [[nodiscard]] QLineEdit& search() { return *search_; }
  [[nodiscard]] QSlider& blend() { return *blend_; }
  /// The pose that is chosen, as it is seen.
  [[nodiscard]] std::optional<pose::Figure> chosen() const;

 signals:
  void closed();
  /// To be put on the picture by dragging a box.
  void putAsked(const pose::Figure& figure);
  void said(const QString& sentence);

 protected:
  void keyPressEvent(QKeyEvent*) override;

 private:
  void fill();
  void showBlend();
  void blendTo(int percent);
  void endBlend();
  void saveOwn();
  [[nodiscard]] const pose::NamedPose* poseAt(int number) const;
  [[nodiscard]] pose::Figure figureOf(const pose::NamedPose& pose) const;
  /// Runs what may fail, and says what went wrong.
  void guarded(const std::function<void()>& job);

  PoseWork& work_;
  OwnPoses own_;
  QLineEdit* search_;
  QComboBox *category_, *view_;
  QStandardItemModel* model_;
  QListView* list_;
  QSlider* blend_;
  QLabel *blendName_, *count_;
  QPushButton *put_, *take_, *save_, *remove_;
  QTimer blendLater_;
  std::vector<pose::NamedPose> all_;  ///< house poses, then own ones
  std::size_t houseCount_ = 0;
};

}  // namespace hscaffold::app
