/// The Bench: from reference to balanced guides.
#pragma once

#include "app/bench/depth_table.h"
#include "app/bench/figure_strip.h"
#include "app/bench/left_column.h"
#include "app/bench/pose_library.h"
#include "app/bench/proof_strip.h"
#include "app/bench/proof_table.h"
#include "app/bench/scan_strip.h"
#include "app/bench/source_table.h"
#include "app/bench/span_board.h"
#include "app/bench/tool_row.h"
#include "app/brief/brief_panel.h"
#include "app/main_view.h"

class QBoxLayout;
class QHBoxLayout;
class QLabel;
class QSlider;
class QPushButton;
class QSplitter;

namespace hscaffold::app {

class Room;

class BenchView : public MainView {
  Q_OBJECT
 public:
  explicit BenchView(Desk& desk, QWidget* parent = nullptr);
  [[nodiscard]] QString title() const override { return "Bench"; }
  [[nodiscard]] std::vector<QAction*> viewActions() override { return actions_; }
  [[nodiscard]] SourceTable& source() { return *source_; }
  [[nodiscard]] ProofTable& proof() { return *proof_; }
  [[nodiscard]] DepthTable& depth() { return *depth_; }
  [[nodiscard]] LeftColumn& left() { return *left_; }
  [[nodiscard]] SpanBoard& board() { return *board_; }
  [[nodiscard]] BriefPanel& brief() { return *brief_; }
  [[nodiscard]] ToolRow& tools() { return *tools_; }
  [[nodiscard]] FigureStrip& figures() { return *figures_; }
  [[nodiscard]] PoseLibrary& library() { return *library_; }
  /// The pose library takes the proof's place while it is open.
  void showLibrary(bool shown);
  [[nodiscard]] bool libraryShown() const { return library_->isVisibleTo(this); }
  /// Which tables are seen: both, or one over the whole width.
  enum class Tables { both, source, proof };
  void showTables(Tables tables);
  /// The two tables and nothing else; what was folded comes back as it was.
  void showTablesAlone(bool alone);
  /// The brief stands beside the tables, so that all of its leaves are seen, or beside the board.
  void pullBriefUp(bool up);
  [[nodiscard]] bool briefIsUp() const;
  /// Opens the side-by-side of line maps for the reference that is being looked at.
  void compareMaps();
  [[nodiscard]] Tables tables() const { return tables_; }
  [[nodiscard]] ProofStrip& proofs() { return *strip_; }
  [[nodiscard]] ScanStrip& scan() { return *scan_; }
  [[nodiscard]] QRect messagePlace() const override;

 private:
  QWidget* sourceHead();
  QWidget* proofHead();
  void addDepthLooks(QHBoxLayout& row);
  /// The map of depth takes the proof's place, or gives it back (none).
  void showDepth(std::optional<DepthTable::Look> look);
  void addActions();
  void fold();
  void follow(const Changes& changes);
  void refresh();
  /// A frame that stands upright has the height of the table: its proofs are listed beside it.
  void layProofs();
  /// Tools that fit what is being done, placing or working on a map.
  void showTools();

  Desk& desk_;
  Workbench& bench_;
  LeftColumn* left_;
  SourceTable* source_;
  ProofTable* proof_;
  DepthTable* depth_;
  ProofStrip* strip_;
  ScanStrip* scan_;
  SpanBoard* board_;
  BriefPanel* brief_;
  FigureStrip* figures_;
  PoseLibrary* library_;
  QWidget *sourceSide_, *proofSide_, *proofPage_, *libraryPage_, *placingTools_, *toolPanel_, *figurePanel_;
  ToolRow* tools_;
  QPushButton *place_, *before_, *paper_;
  std::vector<QPushButton*> proofLooks_, depthLooks_;  ///< the latter by DepthTable::Look
  QPushButton *contours_, *depthShown_;
  QLabel* proofTitle_;
  QSlider* ghost_;
  QLabel *about_, *pointer_;
  QLabel* ghostName_ = nullptr;
  QBoxLayout* proofBody_;  ///< the proof's table and the recent proofs
  std::vector<QAction*> actions_;
  std::string lastGuide_;
  QWidget *leftPanel_, *lower_;
  QSplitter *tableRow_, *boardRow_;
  Room* briefRoom_;
  Tables tables_ = Tables::both;
  bool alone_ = false;
};

}  // namespace hscaffold::app
