/// What tools, kinds and regions put into the row of tools beside the tools themselves.
#pragma once

#include <QString>
#include <functional>
#include <vector>

#include "core/limits.h"

namespace hscaffold::app {

/// A number that the artist sets there. What it changes in the study is one step as long as it is dragged.
struct RowField {
  const char* name;  ///< "Size"; in small letters its object name
  const char* tip;   ///< goes on after the name
  Limits limits;
  std::function<double()> value;
  std::function<void(double)> set;
};

/// A button there: an icon, or words.
struct RowButton {
  const char* name;  ///< object name
  const char* icon;  ///< null: `words`
  const char* words;
  const char* tip;
  std::function<void()> press;
  std::function<bool()> pressed = {};  ///< for buttons that stay down
  std::function<bool()> usable = {};   ///< empty: always
  struct Choice {
    QString name;
    std::function<void()> take;
  };
  std::vector<Choice> choices = {};  ///< a menu in place of `press`
};

}  // namespace hscaffold::app
