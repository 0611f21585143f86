/// What to make and what not, in words; with a start picture also what it shows and what is wanted instead.
#pragma once

#include <QWidget>

#include "app/brief/prompt_edit.h"
#include "app/desk.h"

class QLabel;
class QLineEdit;
class QToolButton;

namespace hscaffold::app {

class WordsLeaf : public QWidget {
  Q_OBJECT
 public:
  explicit WordsLeaf(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] PromptEdit& prompt() { return *prompt_; }
  /// Whether the poses of a guide can be put into words.
  void setPoseWordsShown(bool shown);

 signals:
  void poseWordsAsked();

 private:
  void refresh();
  void refreshBounds();
  void offerEarlier();
  QLineEdit* field(const QString& name, const QString& placeholder, std::string StartPicture::*words);

  Desk& desk_;
  PromptEdit* prompt_;
  QLineEdit *avoid_, *shows_, *wanted_;
  QWidget* difference_;
  QLabel *bounds_, *left_;
  QToolButton *poseWords_, *earlier_;
};

}  // namespace hscaffold::app
