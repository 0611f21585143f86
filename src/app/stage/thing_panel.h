/// What is on the stage, and all that can be set of what is chosen there.
#pragma once

#include <QWidget>

#include "app/stage/stage_table.h"
#include "app/stage/stage_work.h"

class QComboBox;
class QGridLayout;
class QLabel;
class QListWidget;
class QPushButton;
class QToolButton;
class QVBoxLayout;

namespace hscaffold::app {

/// Something of what is chosen, or of the eye: how it is had, if it is there, and how it is set.
struct ThingValue {
  using Get = std::function<std::optional<double>(const stage::Scene&, const stage::Thing*)>;
  using Set = std::function<void(stage::Scene&, stage::Thing*, double)>;
  Get get;
  Set set;
};

class ThingPanel : public QWidget {
  Q_OBJECT
 public:
  ThingPanel(StageWork& work, StageTable& table, QWidget* parent = nullptr);
  [[nodiscard]] QListWidget& list() const { return *things_; }
  /// The first turn of the chosen joint takes the keyboard.
  void typeDegrees();

 private:
  /// Of what is chosen, or of the eye. `show` puts its value in and says whether it has one.
  struct Field {
    QWidget *name, *edit;
    int fold;  ///< -1: always open
    std::function<bool(const stage::Scene&, const stage::Thing*)> show;
  };
  QGridLayout* section(QVBoxLayout& column, const QString& title, int& fold);
  void addNumber(QGridLayout& grid, int fold, const char* objectName, const QString& name, const Limits& limits,
                 ThingValue of);
  void addChoice(QGridLayout& grid, int fold, const char* objectName, const QString& name, const QStringList& choices,
                 ThingValue of);
  void addFlag(QGridLayout& grid, int fold, const char* objectName, const QString& name, ThingValue of);
  void addColour(QGridLayout& grid, int fold, const char* objectName, const QString& name, Rgb stage::Clothes::*colour);
  void addRow(QGridLayout& grid, int fold, const QString& name, QWidget* edit,
              std::function<bool(const stage::Scene&, const stage::Thing*)> show);
  void edit(const QString& name, const char* objectName, const ThingValue::Set& set, double value);
  void addPlace(QVBoxLayout& column);
  /// What a panel shows.
  void addShown(QGridLayout& grid);
  void addBuild(QVBoxLayout& column);
  void addHands(QVBoxLayout& column);
  void addClothes(QVBoxLayout& column);
  void addEye(QVBoxLayout& column);
  void fillTurns(const stage::Thing* thing);
  void refresh();

  StageWork& work_;
  StageTable& table_;
  QListWidget* things_;
  QLabel *chosen_, *joint_;
  QGridLayout* turns_;
  QPushButton* menu_;
  struct Fold {
    QToolButton* head;
    QWidget* body;
  };
  std::vector<Fold> folds_;
  std::vector<Field> fields_;
  struct TurnField {
    QLabel* name;
    class ScrubField* field;
    std::size_t turn;
  };
  std::vector<TurnField> turnFields_;
  std::string turnsOf_;  ///< the thing and the joint that they are made for
  bool filling_ = false, typing_ = false;
};

}  // namespace hscaffold::app
