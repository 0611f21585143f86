#include "app/engines/map_wishes.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/widgets/note_label.h"
#include "core/image/atomic_file.h"
#include "core/job/maps_wanted.h"
#include "core/kinds.h"
#include "core/pose/inks.h"
#include "core/text.h"

namespace hscaffold::app {

MapWishes::MapWishes(QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  auto* boxes = new QGridLayout;
  boxes->setHorizontalSpacing(16);
  boxes->setVerticalSpacing(4);
  const auto box = [&](int at, const QString& text, const char* name, const QString& tip) {
    auto* made = new QCheckBox(text);
    made->setObjectName(name);
    made->setToolTip(tip);
    boxes->addWidget(made, at / 2, at % 2);
    connect(made, &QCheckBox::toggled, this, &MapWishes::changed);
    return made;
  };
  dark_ = box(0, "Lines dark on white", "maps dark lines", "Maps of lines are turned over before it gets them");
  near_ = box(1, "What is near is dark", "maps near dark", "Depth maps are turned over before it gets them");
  eight_ = box(2, "Eight bits", "maps eight bits", "Halftones are rounded to 256 steps");
  atFrame_ = box(3, "Of the picture's own size", "maps at frame",
                 "Where a proof is pulled small its maps are made small, too; otherwise they stay the frame's");
  boxes->setColumnStretch(1, 1);
  column->addLayout(boxes);
  auto* inks = new QHBoxLayout;
  inks->addWidget(noteLabel("Inks of poses"));
  inksName_ = new QLabel;
  inksName_->setObjectName("maps inks");
  inks->addWidget(inksName_, 1);
  auto* choose = new QPushButton("From a file...");
  choose->setObjectName("choose inks");
  choose->setProperty("role", "tight");
  choose->setToolTip("JSON after docs/inks.schema.json: colours and widths that this engine knows poses by");
  connect(choose, &QPushButton::clicked, this, &MapWishes::chooseInks);
  none_ = new QPushButton("As in the study");
  none_->setObjectName("study inks");
  none_->setProperty("role", "tight");
  connect(none_, &QPushButton::clicked, this, [this] {
    inks_.clear();
    showInks();
    emit changed();
  });
  inks->addWidget(choose);
  inks->addWidget(none_);
  column->addLayout(inks);
  column->addWidget(noteLabel("What it calls the kinds, where that is not as here"));
  auto* names = new QGridLayout;
  names->setHorizontalSpacing(8);
  names->setVerticalSpacing(4);
  int at = 0;
  for (const Kind& kind : kinds()) {
    auto* edit = new QLineEdit;
    edit->setObjectName("called " + QString::fromStdString(kind.id));
    edit->setAccessibleName("What it calls " + QString::fromStdString(kind.name));
    edit->setPlaceholderText(QString::fromStdString(kind.id));
    edit->setMaxLength(static_cast<int>(longestName));
    connect(edit, &QLineEdit::textChanged, this, &MapWishes::changed);
    names->addWidget(noteLabel(QString::fromStdString(kind.name)), at / 2, 2 * (at % 2));
    names->addWidget(edit, at / 2, 2 * (at % 2) + 1);
    called_[kind.id] = edit;
    ++at;
  }
  column->addLayout(names);
  showInks();
}

MapsWanted MapWishes::wanted() const {
  MapsWanted maps;
  maps.darkLines = dark_->isChecked();
  maps.nearIsDark = near_->isChecked();
  maps.eightBits = eight_->isChecked();
  maps.atFrame = atFrame_->isChecked();
  maps.inks = inks_;
  for (const auto& [kind, edit] : called_)
    if (const QString name = edit->text().trimmed(); !name.isEmpty()) maps.called[kind] = name.toStdString();
  return maps;
}

void MapWishes::show(const MapsWanted& maps) {
  dark_->setChecked(maps.darkLines);
  near_->setChecked(maps.nearIsDark);
  eight_->setChecked(maps.eightBits);
  atFrame_->setChecked(maps.atFrame);
  inks_ = maps.inks;
  for (const auto& [kind, edit] : called_) {
    const auto name = maps.called.find(kind);
    edit->setText(name != maps.called.end() ? QString::fromStdString(name->second) : QString());
  }
  showInks();
}

void MapWishes::chooseInks() {
  const QString path = QFileDialog::getOpenFileName(this, "Inks of poses", {}, "Inks (*.json)");
  if (path.isEmpty()) return;
  try {
    constexpr std::size_t most = std::size_t{1} << 20;
    std::string text = textOf(readWholeFile(path.toStdString(), most));
    if (const std::string why = whyNotInks(text); !why.empty()) throw badInput(why);
    inks_ = std::move(text);
    showInks();
    emit changed();
  } catch (const std::exception& error) {
    emit problem(QString::fromUtf8(error.what()));
  }
}

void MapWishes::showInks() {
  none_->setVisible(!inks_.empty());
  inksName_->setText(inks_.empty() ? QString("as in the study")
                                   : QString::fromStdString(pose::inksFromJson(inks_, "The inks").name));
}

}  // namespace hscaffold::app
