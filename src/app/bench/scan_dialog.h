/// Whether a code in any picture scans: one that came from elsewhere, with nothing known of how it was made.
#pragma once

#include <QDialog>
#include <string>

#include "app/desk.h"
#include "core/measure/scan.h"

class QLabel;

namespace hscaffold::app {

class ScanWays;

class ScanDialog : public QDialog {
  Q_OBJECT
 public:
  /// @param reference  of the study, decoded or not yet
  ScanDialog(Desk& desk, std::string reference, QWidget* parent = nullptr);
  ~ScanDialog() override;
  /// What was found out; null until then.
  [[nodiscard]] const Scan* scan() const { return known_.get(); }

 private:
  void look();
  /// Several windows may look at once.
  [[nodiscard]] std::string taskKey() const;

  Desk& desk_;
  std::string reference_;
  QLabel *picture_, *margin_, *says_;
  ScanWays* ways_;
  std::shared_ptr<const Scan> known_;
  bool looking_ = false;
};

}  // namespace hscaffold::app
