/// The sheets of the study: all proofs, those with a star, then each sheet, newest first.
#pragma once

#include <QAbstractListModel>
#include <QListView>

#include "app/desk.h"

namespace hscaffold::app {

class SheetListModel : public QAbstractListModel {
  Q_OBJECT
 public:
  enum Role { sheetRole = Qt::UserRole + 1, noteRole, picturesRole };
  explicit SheetListModel(Desk& desk, QObject* parent = nullptr);
  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QModelIndex indexOf(std::int64_t sheet) const;

 private:
  /// One entry: which proofs it has, the first four to be shown.
  struct Entry {
    std::int64_t sheet = 0;
    int count = 0;
    std::vector<std::int64_t> first;
    friend bool operator==(const Entry&, const Entry&) = default;
  };
  void refresh();
  Desk& desk_;
  std::vector<Entry> entries_;
};

class SheetList : public QListView {
  Q_OBJECT
 public:
  explicit SheetList(Desk& desk, QWidget* parent = nullptr);

 private:
  void follow();
  Desk& desk_;
  SheetListModel* model_;
};

}  // namespace hscaffold::app
