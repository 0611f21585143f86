/// Colours that the picture should have: taken from a picture, edited, locked.
#pragma once

#include <QWidget>
#include <functional>
#include <vector>

#include "app/desk.h"

class QHBoxLayout;
class QLabel;
class QPushButton;
class QToolButton;

namespace hscaffold::app {

class ScrubField;

class ColoursLeaf : public QWidget {
  Q_OBJECT
 public:
  explicit ColoursLeaf(Desk& desk, QWidget* parent = nullptr);

 private:
  using Colours = std::vector<mood::WantedColour>;
  void refresh();
  void change(const QString& name, const std::function<void(Colours&)>& edit);
  /// Takes a palette from a picture; what is locked stays.
  void takeFrom(const QString& what, const QImage& picture);
  void editAt(std::size_t index);
  void showMenu(std::size_t index, QPoint at);

  struct Swatch {
    QToolButton *colour, *lock;
  };
  void addSwatch();

  Desk& desk_;
  QHBoxLayout* row_;
  std::vector<Swatch> swatches_;
  QLabel* about_;
  QPushButton *fromReference_, *fromProof_, *fromStart_, *clear_;
  ScrubField* count_;
};

}  // namespace hscaffold::app
