/// The checks of the open study: made once a change, announced when they are others.
#pragma once

#include <QObject>
#include <vector>

#include "core/study/checks.h"

namespace hscaffold::app {

class MapRoom;
class StudyDocument;

class CheckList : public QObject {
  Q_OBJECT
 public:
  /// @param engine  what makes the proofs.
  CheckList(StudyDocument& document, MapRoom& maps, EngineInfo engine, QObject* parent = nullptr);
  [[nodiscard]] const std::vector<Check>& all() const { return checks_; }  ///< worst first
  /// The worst about a guide; null if there is none.
  [[nodiscard]] const Check* about(const std::string& guide) const;

 signals:
  void changed();

 private:
  void refresh();

  StudyDocument& document_;
  MapRoom& maps_;
  EngineInfo engine_;
  std::vector<Check> checks_;
  MapPairs pairs_;
};

}  // namespace hscaffold::app
