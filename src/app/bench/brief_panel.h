/// The brief: what to make.
#pragma once

#include <QPlainTextEdit>
#include <QWidget>

#include "app/desk.h"

class QLineEdit;
class QToolButton;

namespace hscaffold::app {

class ScrubField;

class BriefPanel : public QWidget {
  Q_OBJECT
 public:
  explicit BriefPanel(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] QPlainTextEdit& prompt() { return *prompt_; }
  /// Whether the poses of a guide can be put into words.
  void setPoseWordsShown(bool shown);

 signals:
  void poseWordsAsked();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void refresh();

  Desk& desk_;
  QPlainTextEdit* prompt_;
  QLineEdit *avoid_, *seed_;
  QToolButton *lock_, *dice_, *poseWords_;
  ScrubField *steps_, *guidance_;
};

}  // namespace hscaffold::app
