/// The prompt, with emphasis: heavier phrases in heavier type, lighter ones in softer type. A selected phrase has a
/// knob below it that is dragged up and down; Ctrl with wheel or arrows does the same, also for the phrase at the
/// cursor.
#pragma once

#include <QTextEdit>
#include <memory>
#include <vector>

#include "core/brief/brief.h"

namespace hscaffold {
struct EngineWords;
}

namespace hscaffold::app {

class PromptEdit : public QTextEdit {
  Q_OBJECT
 public:
  explicit PromptEdit(QWidget* parent = nullptr);
  /// Without emitting anything.
  void show(const std::string& prompt, const std::vector<Emphasis>& emphasis);
  /// Which words are underlined: those that the engine acts on; null: none, since it does not say.
  void setWords(std::shared_ptr<const EngineWords> words);
  /// Of the phrase that is selected or stands at the cursor.
  [[nodiscard]] double emphasisHere() const;

 signals:
  void promptEdited(const std::string& prompt);
  void emphasisEdited(const std::vector<Emphasis>& emphasis);
  void finished();

 protected:
  bool event(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void insertFromMimeData(const QMimeData* source) override;

 private:
  std::shared_ptr<const EngineWords> words_;
  class Marks;
  class Knob;
  struct Span {
    int first = 0, length = 0;  ///< UTF-16 units
  };
  [[nodiscard]] Span phrase() const;
  void emphasise(double weight);
  void placeKnob();

  QString shown_;
  std::vector<Emphasis> emphasis_;
  Marks* marks_;
  Knob* knob_;
};

}  // namespace hscaffold::app
