/// The references of the study in their order, with small pictures that are made in the background.
#pragma once

#include <QAbstractListModel>
#include <QImage>
#include <string>
#include <vector>

#include "core/recently_used.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;
class TaskRunner;

class ReferenceModel : public QAbstractListModel {
  Q_OBJECT
 public:
  enum Role { idRole = Qt::UserRole + 1 };
  /// @param size  of a small picture in device pixels; pictures are cut to it about their middle.
  ReferenceModel(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QSize size, QObject* parent = nullptr);

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  /// Decoration is a QImage of the given size: null while it is being made.
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QModelIndex indexOf(const std::string& reference) const;

 private:
  void refresh();
  /// The small picture if there is one; otherwise it is asked for.
  [[nodiscard]] QImage thumbnail(const std::string& reference) const;

  StudyDocument& document_;
  MapRoom& maps_;
  TaskRunner& tasks_;
  QSize size_;
  std::vector<std::string> ids_;
  struct Small {
    QImage image;
    qint64 of = 0;  ///< cache key of the picture that it shows
  };
  RecentlyUsed<std::string, Small> small_;  ///< by id, bounded by bytes
};

}  // namespace hscaffold::app
