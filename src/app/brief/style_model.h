/// The style cards: those in use first, then the artist's own, then the house's. Their pictures are made by the engine
/// on one layout, in the background, when they are first looked at.
#pragma once

#include <QAbstractListModel>
#include <QImage>
#include <filesystem>
#include <map>
#include <set>
#include <vector>

#include "app/desk.h"
#include "app/document/own_list.h"
#include "core/brief/styles.h"

namespace hscaffold::app {

class StyleModel : public QAbstractListModel {
  Q_OBJECT
 public:
  enum Role { idRole = Qt::UserRole + 1, strengthRole, ownRole };
  explicit StyleModel(Desk& desk, QObject* parent = nullptr);

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  /// Decoration is a QImage: null while it is being made.
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QModelIndex indexOf(const QString& id) const;
  [[nodiscard]] const StyleCard* card(const QModelIndex& index) const;

  /// Only cards whose name or words have this in them, and those in use.
  void setSearch(const QString& text);
  void use(const QModelIndex& index, double strength, bool goesOn);

  /// @throws Problem if the artist's cards cannot be written.
  void add(StyleCard card);
  void remove(const QString& id);

 signals:
  void said(const QString& sentence);

 private:
  void refresh();
  [[nodiscard]] QImage picture(const StyleCard& card) const;

  Desk& desk_;
  OwnList<StyleCard> own_;
  std::vector<StyleCard> shown_;
  QString search_;
  mutable std::map<std::string, QImage> pictures_;
  mutable std::set<std::string> asked_;
};

}  // namespace hscaffold::app
