/// The checks of the open study: made once a change, announced when they are others.
#pragma once

#include <QObject>
#include <vector>

#include "core/engine/registry.h"
#include "core/study/checks.h"

namespace hscaffold::app {

class MapRoom;
class ProofShelf;
class StudyDocument;

class CheckList : public QObject {
  Q_OBJECT
 public:
  /// @param engines  of which the study's makes the proofs.
  CheckList(StudyDocument& document, MapRoom& maps, const ProofShelf& proofs, const EngineRegistry& engines,
            QObject* parent = nullptr);
  [[nodiscard]] const std::vector<Check>& all() const { return checks_; }  ///< worst first
  /// After a change of what is not in the study: which engines there are.
  void refresh();
  /// The worst about a guide; null if there is none.
  [[nodiscard]] const Check* about(const std::string& guide) const;

 signals:
  void changed();

 private:
  StudyDocument& document_;
  MapRoom& maps_;
  const ProofShelf& proofs_;
  const EngineRegistry& engines_;
  std::vector<Check> checks_;
  MapPairs pairs_;
};

}  // namespace hscaffold::app
