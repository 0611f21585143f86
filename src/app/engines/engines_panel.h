/// What makes the pictures: the engines that there are, how they are, what they take and how long they take here; and
/// the two sets, rough and final.
#pragma once

#include <QFrame>

class QScrollArea;
class QVBoxLayout;

namespace hscaffold {
struct EngineInfo;
}

namespace hscaffold::app {

class Desk;

class EnginesPanel : public QFrame {
  Q_OBJECT
 public:
  explicit EnginesPanel(Desk& desk, QWidget* parent = nullptr);

 signals:
  void addressAsked();
  void programAsked();
  /// How an engine wants its maps is to be set.
  void mapsAsked(const QString& engine);

 private:
  /// What of the artist's own an engine is.
  enum class Own { neither, program, service };
  void fill();
  [[nodiscard]] QWidget* row(const EngineInfo& info, Own of);
  [[nodiscard]] QWidget* sets();
  void use(const std::string& engine);

  Desk& desk_;
  QScrollArea* scroll_;
  QWidget* list_;
  QVBoxLayout *rows_, *sets_;
};

/// "edges, depth, pose; sides in steps of 8, up to 16.0 MP, 2 at a time"
QString takesText(const EngineInfo& info);

}  // namespace hscaffold::app
