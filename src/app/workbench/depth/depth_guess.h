/// Guesses the depth of the selected guide with a network of the artist's choice, in the background.
#pragma once

#include <QObject>
#include <filesystem>

namespace hscaffold::app {

class MapRoom;
class StudyDocument;
class TaskRunner;

class DepthGuess : public QObject {
  Q_OBJECT
 public:
  DepthGuess(StudyDocument& document, MapRoom& maps, TaskRunner& tasks, QObject* parent = nullptr);

  /// What it answers becomes the guide's estimate, as one step; what came of it is said.
  /// @param onnx  with a description beside it: docs/networks.md
  void guess(const std::filesystem::path& onnx);
  void stop();
  [[nodiscard]] bool guessing() const { return guessing_; }
  /// Back to what the picture's own cues say.
  void drop();
  /// Whether the selected guide has an estimate.
  [[nodiscard]] bool hasEstimate() const;

 signals:
  void said(const QString& sentence);

 private:
  StudyDocument& document_;
  MapRoom& maps_;
  TaskRunner& tasks_;
  bool guessing_ = false;
};

}  // namespace hscaffold::app
