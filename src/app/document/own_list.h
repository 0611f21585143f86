/// A list of the artist's own that all windows share (styles, kept briefs, poses), in a file of its own. Every change
/// is made to what the file holds then, so that no window writes over what another one added.
#pragma once

#include <QDir>
#include <QStandardPaths>
#include <QString>
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "core/image/atomic_file.h"
#include "core/problem.h"
#include "files/study_lock.h"

namespace hscaffold::app {

template <typename T>
class OwnList {
 public:
  using List = std::vector<T>;
  /// @param what   in messages: "Your own styles"
  /// @param read   @throws Problem
  OwnList(const QString& fileName, std::string what, std::function<List(const std::string& text)> read,
          std::function<std::string(const List&)> write)
      : what_(std::move(what)), read_(std::move(read)), write_(std::move(write)) {
    const QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation));
    file_ = folder.filePath(fileName).toStdString();
    try {
      all_ = now();
    } catch (const std::exception& error) {
      trouble_ = error.what();
    }
  }

  /// As this window knows it.
  [[nodiscard]] const List& all() const { return all_; }
  /// Why it could not be read; empty if it could.
  [[nodiscard]] const QString& trouble() const { return trouble_; }

  /// What the file holds now is changed and written; nothing is changed if that fails. What could not be read is not
  /// written over. @throws Problem
  void change(const std::function<void(List&)>& edit) {
    std::filesystem::create_directories(file_.parent_path());
    const auto lock = StudyLock::take(file_, longestWait);
    if (!lock.lock && !lock.folderClosed) throw failed(what_ + " are being written by " + lock.holder + ". Try again.");
    List next;
    try {
      next = now();
    } catch (const std::exception& error) {
      throw failed(what_ + " could not be read, so nothing was written. " + error.what());
    }
    edit(next);
    const std::string text = write_(next);
    writeFileAtomically(file_, hscaffold::bytesOf(text));
    all_ = std::move(next);
    trouble_.clear();
  }

 private:
  static constexpr int longestWait = 2000;  ///< milliseconds
  [[nodiscard]] List now() const {
    return std::filesystem::exists(file_) ? read_(textOf(readWholeFile(file_))) : List();
  }
  std::filesystem::path file_;
  std::string what_;
  std::function<List(const std::string&)> read_;
  std::function<std::string(const List&)> write_;
  List all_;
  QString trouble_;
};

}  // namespace hscaffold::app
