/// The start picture and how far it may be left.
#pragma once

#include <QWidget>

#include "app/desk.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QSlider;

namespace hscaffold::app {

class ScrubField;

/// The steps in two colours: those whose outcome is the start picture's, and those that are made anew.
class ChangeBar : public QWidget {
 public:
  explicit ChangeBar(QWidget* parent = nullptr);
  void show(double change, int steps);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  double change_ = 0;
  int steps_ = 20;
};

class StartPlacer;

class StartLeaf : public QWidget {
  Q_OBJECT
 public:
  explicit StartLeaf(Desk& desk, QWidget* parent = nullptr);

 private:
  void refresh();
  void refreshPicture();
  /// Of the picture itself; nothing where it is not placed.
  [[nodiscard]] Size sizeOf(const StartPicture& start) const;
  void change(const QString& name, const std::function<void(StartPicture&)>& edit, const std::string& merge = {});
  void takeReference();
  void takeProof();
  void takeColour();
  void takeGuide();
  void setMood(bool on);
  [[nodiscard]] QImage picture(const StartPicture& start) const;

  Desk& desk_;
  QWidget *offers_, *given_;
  QPushButton *fromReference_, *fromProof_, *fromGuide_;
  StartPlacer* picture_;
  QLabel* caption_;
  StartPicture shown_;  ///< whose picture is shown
  Size shownIn_;        ///< the frame
  QComboBox* fit_;
  QSlider* slider_;
  ScrubField* change_;
  ChangeBar* bar_;
  QCheckBox* mood_;
  QWidget* moodRow_;
  ScrubField* blur_;
  QComboBox* sorting_;
};

}  // namespace hscaffold::app
