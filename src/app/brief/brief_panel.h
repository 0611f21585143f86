/// The brief: what to make. Five leaves, each named with what is in use on it, and a row that is always there; pulled
/// up to where there is room, the leaves stand one under the other.
#pragma once

#include <QWidget>
#include <array>

#include "app/brief/prompt_edit.h"
#include "app/desk.h"

class QLabel;
class QLineEdit;
class QScrollArea;
class QStackedWidget;
class QToolButton;
class QVBoxLayout;

namespace hscaffold::app {

class ColoursLeaf;
class ScrubField;
class StartLeaf;
class StepsLeaf;
class StylesLeaf;
class WordsLeaf;

class BriefPanel : public QWidget {
  Q_OBJECT
 public:
  enum class Leaf { words, styles, colours, start, steps };
  explicit BriefPanel(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] PromptEdit& prompt();
  /// Whether the poses of a guide can be put into words.
  void setPoseWordsShown(bool shown);
  void showLeaf(Leaf leaf);
  /// Whether all leaves are seen at once.
  [[nodiscard]] bool pulledUp() const { return pulledUp_; }
  /// Height from which there is room for all leaves.
  static constexpr int roomForAll = 440;

 signals:
  void poseWordsAsked();
  void pullUpAsked();  ///< beside the tables, or back
  void said(const QString& sentence);

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  static constexpr std::size_t leafCount = 5;
  QWidget* alwaysThere();
  void arrange();
  void refresh();
  void fitHead();

  Desk& desk_;
  WordsLeaf* words_;
  StylesLeaf* styles_;
  ColoursLeaf* colours_;
  StartLeaf* start_;
  StepsLeaf* steps_;
  std::array<QWidget*, leafCount> leaves_{};
  std::array<QToolButton*, leafCount> tabs_{};
  std::array<QLabel*, leafCount> titles_{};
  QLabel* title_;
  QStackedWidget* stack_;
  QScrollArea* scroll_;
  QVBoxLayout* all_;
  QToolButton* pull_;
  bool pulledUp_ = false;
  QLineEdit* seed_;
  QToolButton *lock_, *dice_;
  ScrubField *stepCount_, *guidance_;
};

}  // namespace hscaffold::app
