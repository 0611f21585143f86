/// The cells of what the Sheet shows: one sheet as its matrix, or proofs in rows, sorted and filtered.
#pragma once

#include <QAbstractTableModel>
#include <map>
#include <optional>
#include <vector>

#include "app/desk.h"

namespace hscaffold::app {

/// `Looking::sheet` for proofs that are no sheet of their own.
inline constexpr std::int64_t allProofs = 0, keptProofs = -1;

enum class ProofOrder { newest, seed, hold, shift, time };

class SheetModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Role {
    numberRole = Qt::UserRole + 1,  ///< of the proof; 0 where there is none yet
    holdRole,                       ///< invalid where it was not measured
    shiftRole,
    keptRole,
    progressRole,  ///< share of the steps done, [0, 1]; invalid where nothing runs
    pullRole,      ///< what will become a proof here: its place in the queue by id; 0 where nothing will
    emptyRole,     ///< why there is no proof, in a word
    captionRole    ///< what a cell has that others have not; empty where the axes say it
  };
  explicit SheetModel(Desk& desk, QObject* parent = nullptr);

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
  /// Decoration is a QImage, null while it is being brought.
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation direction, int role) const override;
  [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;

  /// The sheet that is shown; null for proofs of several.
  [[nodiscard]] const SheetInfo* sheet() const;
  /// Whether every cell has its place: a strip.
  [[nodiscard]] bool placed() const;
  /// Whether it is so long in one direction only that it may go on in the next row, as words do: one axis, one seed.
  [[nodiscard]] bool mayWrap() const;
  /// Whether values stand at the axes.
  [[nodiscard]] bool matrix() const { return placed() && !wrapped_; }
  /// The proofs that are shown, in their order.
  [[nodiscard]] std::vector<const ProofInfo*> proofs() const;
  [[nodiscard]] std::vector<MeasuredCell> measured() const;
  [[nodiscard]] QModelIndex indexOf(std::int64_t number) const;
  [[nodiscard]] std::int64_t numberAt(const QModelIndex& index) const;

  /// How many stand beside each other where it is no matrix.
  /// @param wrapped  a strip that may wrap does
  void setColumns(int columns, bool wrapped = false);
  void setOrder(ProofOrder order);
  [[nodiscard]] ProofOrder order() const { return order_; }
  /// Whose hold is looked at: a guide's id; empty: the mean of all.
  void setHoldOf(const std::string& guide);
  [[nodiscard]] const std::string& guideLookedAt() const { return holdOf_; }
  [[nodiscard]] std::optional<double> hold(const ProofInfo& proof) const { return hscaffold::holdOf(proof, holdOf_); }
  /// Only proofs that hold at least so much, and moved at least so far.
  void setLeastHold(double hold);
  void setLeastShift(double shift);

 signals:
  void shownChanged();  ///< other proofs, or another order

 private:
  /// A place in the table: a proof, or what will become one.
  struct Slot {
    std::int64_t proof = 0, pull = 0;
    friend bool operator==(const Slot&, const Slot&) = default;
  };
  void refresh();
  [[nodiscard]] std::vector<Slot> slotsNow() const;
  [[nodiscard]] QString caption(int cell) const;
  [[nodiscard]] const Slot* slotAt(const QModelIndex& index) const;
  [[nodiscard]] QModelIndex at(std::size_t slot) const;

  Desk& desk_;
  std::vector<Slot> slots_;  ///< row by row
  std::int64_t sheet_ = 0;
  int rows_ = 0, columns_ = 1, wantedColumns_ = 5;
  bool wrapped_ = false;
  ProofOrder order_ = ProofOrder::newest;
  double leastHold_ = 0, leastShift_ = 0;
  std::string holdOf_;
};

}  // namespace hscaffold::app
