#include "app/brief/steps_leaf.h"

#include <QGridLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRegularExpressionValidator>
#include <QToolButton>
#include <nlohmann/json.hpp>

#include "app/theme/icons.h"
#include "app/widgets/menus.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "core/guides/json_fields.h"

namespace hscaffold::app {
namespace {

constexpr std::size_t mostKept = 60;

/// What belongs to one study only is left behind.
Brief portable(Brief brief) {
  if (brief.start.from != StartPicture::From::colour) brief.start = {};
  brief.extra.clear();
  return brief;
}

std::vector<KeptBrief> keptFrom(const std::string& text) {
  const auto json = parseJson(text, "Your kept briefs");
  JsonFields fields(json, "Your kept briefs");
  std::vector<KeptBrief> all;
  for (const auto& entry : fields.list("briefs")) {
    JsonFields kept(entry, "A kept brief");
    all.push_back(
        {fittedText(kept.text("name"), longestName), briefFromJson(kept.child("brief"), "A kept brief", true)});
  }
  return all;
}

std::string textOfKept(const std::vector<KeptBrief>& briefs) {
  auto list = nlohmann::json::array();
  for (const KeptBrief& kept : briefs) list.push_back({{"name", kept.name}, {"brief", briefToJson(kept.brief)}});
  return nlohmann::json({{"briefs", list}}).dump(1);
}

}  // namespace

StepsLeaf::StepsLeaf(Desk& desk, QWidget* parent)
    : QWidget(parent), desk_(desk), kept_("briefs.json", "Your kept briefs", keptFrom, textOfKept) {
  auto* grid = new QGridLayout(this);
  grid->setContentsMargins(0, 4, 0, 0);
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(6);
  time_ = noteLabel();
  grid->addWidget(noteLabel("A proof"), 0, 0);
  grid->addWidget(time_, 0, 1, 1, 4);
  vary_ = new ScrubField;
  vary_->setObjectName("vary");
  vary_->setUp(limits::vary);
  vary_->setAccessibleName("How far from the seed");
  vary_->setToolTip("A small variation of the seed: 0 is the seed itself");
  connect(vary_, &ScrubField::edited, this, [this](double value) {
    desk_.document.change(
        "Vary the seed", [&](StudyState& s) { s.brief.vary = value; }, "vary");
  });
  vary_->offerStrip();
  connect(vary_, &ScrubField::stripAsked, this, [this] { emit desk_.stripAsked({Setting::vary, "", {}, {}}); });
  connect(vary_, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  variation_ = new QLineEdit;
  variation_->setObjectName("variation");
  variation_->setAccessibleName("Which variation");
  variation_->setValidator(new QRegularExpressionValidator(QRegularExpression("\\d{1,10}"), variation_));
  connect(variation_, &QLineEdit::editingFinished, this, [this] {
    const qulonglong value = std::min<qulonglong>(variation_->text().toULongLong(), 0xffffffffULL);
    desk_.document.change("Variation", [&](StudyState& s) { s.brief.variation = static_cast<std::uint32_t>(value); });
  });
  auto* next = new QToolButton;
  next->setObjectName("next variation");
  setIcon(*next, "dice");
  next->setAccessibleName("Next variation");
  next->setToolTip("The next variation: a neighbour of this seed");
  connect(next, &QToolButton::clicked, this, [this] {
    desk_.document.change("Next variation", [](StudyState& s) {
      ++s.brief.variation;
      if (s.brief.vary <= 0) s.brief.vary = 0.15;
    });
  });
  grid->addWidget(noteLabel("Vary seed by"), 1, 0);
  grid->addWidget(vary_, 1, 1);
  grid->addWidget(noteLabel("variation"), 1, 2);
  grid->addWidget(variation_, 1, 3);
  grid->addWidget(next, 1, 4);
  auto* keepButton = new QPushButton("Keep this brief");
  keepButton->setObjectName("keep brief");
  keepButton->setProperty("role", "link");
  keepButton->setToolTip("Words, styles, seed and numbers under a name, for every study");
  connect(keepButton, &QPushButton::clicked, this, &StepsLeaf::keep);
  keptButton_ = new QToolButton;
  keptButton_->setObjectName("kept briefs");
  keptButton_->setToolTip("Bring a kept brief back");
  connect(keptButton_, &QToolButton::clicked, this, &StepsLeaf::offerKept);
  grid->addWidget(noteLabel("Kept briefs"), 2, 0);
  grid->addWidget(keptButton_, 2, 1);
  grid->addWidget(keepButton, 2, 2, 1, 3, Qt::AlignLeft);
  grid->setColumnStretch(1, 2);
  grid->setColumnStretch(3, 2);
  grid->setRowStretch(3, 1);
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.brief || changes.frame || changes.guideList || !changes.guides.empty()) refresh();
  });
  connect(&desk_.queue, &PullQueue::ended, this, &StepsLeaf::refresh);
  refresh();
}

void StepsLeaf::changeKept(const std::function<void(std::vector<KeptBrief>&)>& edit) {
  try {
    kept_.change(edit);
  } catch (const std::exception& error) {
    emit said(error.what());
  }
  refresh();
}

void StepsLeaf::keep() {
  bool given = false;
  const QString name = QInputDialog::getText(this, "Keep this brief", "Name", QLineEdit::Normal, {}, &given).trimmed();
  if (!given || name.isEmpty()) return;
  const std::string called = fittedText(name.toStdString(), longestName);
  changeKept([&](std::vector<KeptBrief>& all) {
    std::erase_if(all, [&](const KeptBrief& kept) { return kept.name == called; });
    if (all.size() >= mostKept)
      throw badInput(
          QString("%1 briefs are kept already. Forget one first; this one was not kept.").arg(mostKept).toStdString());
    all.insert(all.begin(), {called, portable(desk_.document.state().brief)});
  });
}

void StepsLeaf::offerKept() {
  QMenu* menu = newMenu(*this);
  for (const KeptBrief& kept : kept_.all()) {
    auto* action = menu->addAction(QString::fromStdString(kept.name).replace('&', "&&"), this, [this, kept] {
      desk_.document.change("Brief " + QString::fromStdString(kept.name), [&](StudyState& s) {
        const Brief before = s.brief;
        s.brief = kept.brief;
        s.brief.seedLocked = before.seedLocked;
        s.brief.extra = before.extra;
        if (!s.brief.start.given()) s.brief.start = before.start;
      });
    });
    action->setToolTip(QString::fromStdString(kept.brief.prompt));
  }
  if (!kept_.all().empty()) {
    menu->addSeparator();
    auto* forget = menu->addMenu("Forget");
    for (const KeptBrief& kept : kept_.all())
      forget->addAction(QString::fromStdString(kept.name).replace('&', "&&"), this, [this, name = kept.name] {
        changeKept([&](std::vector<KeptBrief>& all) {
          std::erase_if(all, [&](const KeptBrief& entry) { return entry.name == name; });
        });
      });
  }
  menu->setToolTipsVisible(true);
  menu->popup(keptButton_->mapToGlobal(QPoint(0, keptButton_->height())));
}

void StepsLeaf::refresh() {
  const StudyState& state = desk_.document.state();
  time_->setText(QString("%1 x %2, %3 steps: about %4 s")
                     .arg(state.frame.width)
                     .arg(state.frame.height)
                     .arg(state.brief.steps)
                     .arg(desk_.queue.estimate() / 1000, 0, 'f', 1));
  vary_->showValue(state.brief.vary);
  if (!variation_->hasFocus()) variation_->setText(QString::number(state.brief.variation));
  keptButton_->setText(kept_.all().empty() ? QString("none yet") : QString("%1 kept").arg(kept_.all().size()));
  keptButton_->setEnabled(!kept_.all().empty());
}

}  // namespace hscaffold::app
