/// Style cards side by side. A click takes a card in or out, its bar is dragged for the strength; by keys: arrows,
/// Space, + and -.
#pragma once

#include <QListView>
#include <QWidget>

#include "app/brief/style_model.h"

class QLineEdit;
class QPushButton;

namespace hscaffold::app {

class StyleList : public QListView {
  Q_OBJECT
 public:
  explicit StyleList(StyleModel& model, QWidget* parent = nullptr);

 signals:
  void finished();
  void removeAsked(const QString& id);
  void stripAsked(const QString& id);

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void turn(const QModelIndex& index);
  void setByBar(const QModelIndex& index, int x);
  StyleModel& model_;
  QString dragged_;  ///< the card whose bar is held
  QString pressed_;
};

class StylesLeaf : public QWidget {
  Q_OBJECT
 public:
  explicit StylesLeaf(Desk& desk, QWidget* parent = nullptr);

 signals:
  void said(const QString& sentence);

 private:
  void refresh();
  /// @param how  the words that say how, without what
  void make(const std::string& how);

  Desk& desk_;
  StyleModel* model_;
  StyleList* list_;
  QLineEdit* search_;
  QPushButton *fromWords_, *fromProof_;
};

}  // namespace hscaffold::app
