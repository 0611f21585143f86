/// The proofs that are not put away, newest first, for lists and tables.
#pragma once

#include <QAbstractListModel>
#include <vector>

namespace hscaffold::app {

class ProofShelf;
class StudyDocument;

class ProofModel : public QAbstractListModel {
  Q_OBJECT
 public:
  enum Role { numberRole = Qt::UserRole + 1, holdRole };
  ProofModel(StudyDocument& document, ProofShelf& shelf, QObject* parent = nullptr);

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  /// Decoration is a QImage: null while it is being brought.
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QModelIndex indexOf(qint64 number) const;

 private:
  void refresh();
  ProofShelf& shelf_;
  std::vector<qint64> numbers_;
};

}  // namespace hscaffold::app
