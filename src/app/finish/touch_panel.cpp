#include "app/finish/touch_panel.h"

#include <QComboBox>
#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QSlider>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/widgets/note_label.h"
#include "app/widgets/scrub_field.h"
#include "app/widgets/switch_button.h"
#include "core/kinds.h"

namespace hscaffold::app {
namespace {

constexpr int tryPictureRole = Qt::UserRole + 1, tryUsedRole = Qt::UserRole + 2;
constexpr Limits triesAtOnce{1, 16, 4, 1, 0};

/// A try: its picture and what is said of it.
class TryDelegate : public QStyledItemDelegate {
 public:
  TryDelegate(Desk& desk, QObject* parent) : QStyledItemDelegate(parent), desk_(desk) {}
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {144, 116}; }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    painter->save();
    painter->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    const bool used = index.data(tryUsedRole).toBool(), here = option.state.testFlag(QStyle::State_HasFocus);
    const QRectF box = QRectF(option.rect).adjusted(2, 2, -3, -3);
    painter->setPen(QPen(used ? theme().accent : here ? theme().softText : theme().line, used ? 1.8 : 1));
    painter->setBrush(theme().raised);
    painter->drawRoundedRect(box, 3, 3);
    const QRectF place = box.adjusted(4, 4, -4, -22);
    painter->fillRect(place, theme().table);
    const QImage image = desk_.finals.small(index.data(tryPictureRole).toString().toStdString());
    if (!image.isNull()) {
      const QSizeF size = QSizeF(image.size()).scaled(place.size(), Qt::KeepAspectRatio);
      painter->drawImage(QRectF(place.center() - QPointF(size.width() / 2, size.height() / 2), size), image);
    }
    painter->setPen(used ? theme().text : theme().softText);
    painter->setFont(textFont(8.5, used ? QFont::DemiBold : QFont::Normal));
    painter->drawText(QRectF(box.left() + 6, box.bottom() - 20, box.width() - 12, 18), Qt::AlignLeft | Qt::AlignVCenter,
                      index.data().toString());
    painter->restore();
  }

 private:
  Desk& desk_;
};

/// Takes a try away by key.
class TryList : public QListWidget {
 public:
  std::function<void(int)> remove, use;

 protected:
  void keyPressEvent(QKeyEvent* event) override {
    if (event->key() == Qt::Key_Delete && currentRow() >= 0) return remove(currentRow());
    if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Space) && currentRow() >= 0)
      return use(currentRow());
    QListWidget::keyPressEvent(event);
  }
};

}  // namespace

TouchPanel::TouchPanel(Desk& desk, QWidget* parent) : QFrame(parent), desk_(desk) {
  setObjectName("touch panel");
  setProperty("role", "panel");
  setFixedWidth(340);
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(0, 0, 0, 0);
  none_ = noteLabel(
      "Draw on the picture where something is not right: with the brush, a loop, by colour, or take a figure or a "
      "thing of a map. That part is then pulled again, larger than it is shown, with words of its own.");
  none_->setWordWrap(true);
  none_->setContentsMargins(14, 14, 14, 14);
  none_->setAlignment(Qt::AlignTop);
  outer->addWidget(none_);
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  inside_ = scroll;
  auto* page = new QFrame;
  page->setProperty("role", "panel");
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(14, 10, 12, 10);
  column->setSpacing(7);
  scroll->setWidget(page);
  outer->addWidget(scroll, 1);

  name_ = new QLineEdit;
  name_->setObjectName("touch-up name");
  name_->setAccessibleName("Name of the touch-up");
  name_->setProperty("role", "bare");
  name_->setFont(textFont(11, QFont::DemiBold));
  connect(name_, &QLineEdit::textEdited, this, [this](const QString& text) {
    edit(
        "Name a touch-up", [&](TouchUp& t) { t.name = text.toStdString(); }, "touch-up name");
  });
  connect(name_, &QLineEdit::editingFinished, this, [this] { desk_.document.seal(); });
  column->addWidget(name_);
  column->addWidget(noteLabel("Words, here only"));
  words_ = new QPlainTextEdit;
  words_->setObjectName("touch-up words");
  words_->setAccessibleName("Words, here only");
  words_->setTabChangesFocus(true);
  words_->setFixedHeight(56);
  connect(words_, &QPlainTextEdit::textChanged, this, [this] {
    if (!filling_)
      edit(
          "Words of a touch-up", [&](TouchUp& t) { t.words = words_->toPlainText().toStdString(); }, "touch-up words");
  });
  column->addWidget(words_);
  auto* briefRow = new QHBoxLayout;
  briefRow->addWidget(noteLabel("Takes styles and avoid of the brief"), 1);
  withBrief_ = new SwitchButton(theme().accent);
  withBrief_->setObjectName("touch-up with brief");
  withBrief_->setAccessibleName("Takes styles and avoid of the brief");
  withBrief_->setCheckable(true);
  connect(withBrief_, &QAbstractButton::clicked, this,
          [this](bool on) { edit("Brief of a touch-up", [on](TouchUp& t) { t.withBrief = on; }); });
  briefRow->addWidget(withBrief_);
  column->addLayout(briefRow);
  auto* startRow = new QHBoxLayout;
  startRow->addWidget(noteLabel("Begins with"), 1);
  start_ = new QComboBox;
  start_->setObjectName("touch-up start");
  start_->setAccessibleName("Begins with");
  start_->addItems({"what is there", "its colours only", "noise"});
  connect(start_, &QComboBox::activated, this, [this](int index) {
    edit("Begin a touch-up otherwise", [index](TouchUp& t) { t.start = static_cast<TouchStart>(index); });
  });
  startRow->addWidget(start_);
  column->addLayout(startRow);

  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(8);
  grid->setVerticalSpacing(4);
  change_ = addRow(*grid, 0, "Change amount", "touch-up change", limits::touchChange,
                   "How far what is there may be left: 0 keeps it, 1 leaves none of it",
                   [](TouchUp& t, double v) { t.change = v; });
  detail_ = addRow(*grid, 1, "Detail", "touch-up detail", limits::touchDetail,
                   "How much larger the part is pulled than it is shown", [](TouchUp& t, double v) { t.detail = v; });
  likes_ = new QPushButton("as the engine likes it");
  likes_->setObjectName("detail as the engine likes");
  likes_->setProperty("role", "link");
  likes_->setToolTip("So large that the part is pulled at the size that suits the engine best");
  connect(likes_, &QPushButton::clicked, this,
          [this] { edit("Detail of a touch-up", [](TouchUp& t) { t.detail.reset(); }); });
  grid->addWidget(likes_, 2, 1, 1, 2, Qt::AlignRight);
  rim_ = addRow(*grid, 3, "Rim seen", "touch-up rim", limits::touchRim,
                "How much of what is round the region the engine sees", [](TouchUp& t, double v) { t.rim = v; });
  feather_ = addRow(*grid, 4, "Feather", "touch-up feather", limits::touchFeather,
                    "Over how many pixels beyond the border the two mix", [](TouchUp& t, double v) { t.feather = v; });
  column->addLayout(grid);

  column->addWidget(titleLabel("Guides, cut again at this size"));
  guidesBox_ = new QWidget;
  auto* guidesColumn = new QVBoxLayout(guidesBox_);
  guidesColumn->setContentsMargins(0, 0, 0, 0);
  guidesColumn->setSpacing(4);
  column->addWidget(guidesBox_);

  auto* triesHead = new QHBoxLayout;
  triesHead->addWidget(titleLabel("Tries"), 1);
  seeds_ = noteLabel();
  triesHead->addWidget(seeds_);
  column->addLayout(triesHead);
  auto* tries = new TryList;
  tries_ = tries;
  tries_->setObjectName("tries");
  tries_->setAccessibleName("Tries");
  tries_->setProperty("role", "strip");
  tries_->setViewMode(QListView::IconMode);
  tries_->setMovement(QListView::Static);
  tries_->setResizeMode(QListView::Adjust);
  tries_->setItemDelegate(new TryDelegate(desk_, tries_));
  tries_->setMinimumHeight(122);
  tries_->setToolTip("A click puts a try to use; Delete takes it away");
  connect(tries_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) { use(tries_->row(item)); });
  tries->use = [this](int row) { use(row); };
  tries->remove = [this](int row) {
    edit("Take a try away", [row](TouchUp& t) {
      if (row >= std::ssize(t.tries)) return;
      t.tries.erase(t.tries.begin() + row);
      if (t.used == row)
        t.used = -1;
      else if (t.used > row)
        --t.used;
    });
  };
  column->addWidget(tries_, 1);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  pull_ = new QPushButton;
  pull_->setObjectName("pull tries");
  pull_->setProperty("role", "primary");
  connect(pull_, &QPushButton::clicked, this, &TouchPanel::pull);
  count_ = new ScrubField;
  count_->setObjectName("tries at once");
  count_->setAccessibleName("How many tries");
  count_->setToolTip("How many tries are pulled together, each with another seed");
  count_->setUp(triesAtOnce);
  count_->setValue(triesAtOnce.usual);
  count_->setFixedWidth(52);
  connect(count_, &ScrubField::edited, this, &TouchPanel::refresh);
  asItWas_ = new QPushButton("As it was");
  asItWas_->setObjectName("as it was");
  asItWas_->setToolTip("None of its tries: what is below shows again");
  connect(asItWas_, &QPushButton::clicked, this, [this] { use(-1); });
  buttons->addWidget(pull_, 1);
  buttons->addWidget(count_);
  buttons->addWidget(asItWas_);
  column->addLayout(buttons);
  note_ = noteLabel();
  note_->setObjectName("touch-up note");
  note_->setWordWrap(true);
  column->addWidget(note_);

  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.finals || changes.looking || changes.guideList || changes.engine || !changes.guides.empty()) refresh();
  });
  connect(&desk_.finals, &FinalShelf::changed, this, &TouchPanel::refresh);
  connect(&desk_.finals, &FinalShelf::smallChanged, tries_->viewport(), qOverload<>(&QWidget::update));
  refresh();
}

TouchPanel::Row TouchPanel::addRow(QGridLayout& grid, int at, const QString& label, const char* name,
                                   const Limits& limits, const QString& tip,
                                   const std::function<void(TouchUp&, double)>& set) {
  Row row{new QSlider(Qt::Horizontal), new ScrubField};
  const double fine = std::pow(10, limits.decimals);
  row.slider->setRange(static_cast<int>(limits.least * fine), static_cast<int>(limits.most * fine));
  row.slider->setToolTip(tip);
  row.slider->setAccessibleName(label);
  row.slider->setFocusPolicy(Qt::NoFocus);
  row.field->setObjectName(name);
  row.field->setAccessibleName(label);
  row.field->setToolTip(tip);
  row.field->setUp(limits);
  row.field->setFixedWidth(70);
  const QString what = label + " of a touch-up";
  connect(row.field, &ScrubField::edited, this, [this, what, set](double value) {
    edit(
        what, [&](TouchUp& t) { set(t, value); }, what.toStdString());
  });
  connect(row.field, &ScrubField::finished, this, [this] { desk_.document.seal(); });
  connect(row.slider, &QSlider::valueChanged, this, [this, what, set, fine](int value) {
    if (!filling_)
      edit(
          what, [&](TouchUp& t) { set(t, value / fine); }, what.toStdString());
  });
  connect(row.slider, &QSlider::sliderReleased, this, [this] { desk_.document.seal(); });
  grid.addWidget(noteLabel(label), at, 0);
  grid.addWidget(row.slider, at, 1);
  grid.addWidget(row.field, at, 2);
  return row;
}

const TouchUp* TouchPanel::chosen() const {
  const StudyState& state = desk_.document.state();
  const Final* final = state.shownFinal();
  return final != nullptr ? final->touchUp(state.looking.touchUp) : nullptr;
}

void TouchPanel::edit(const QString& name, const std::function<void(TouchUp&)>& change, const std::string& merge) {
  const TouchUp* touchUp = chosen();
  if (touchUp == nullptr) return;
  const std::string final = desk_.document.state().looking.final, id = touchUp->id;
  desk_.document.change(
      name,
      [&](StudyState& s) {
        Final* of = s.final(final);
        if (TouchUp* own = of != nullptr ? of->touchUp(id) : nullptr) change(*own);
      },
      merge.empty() ? merge : merge + id);
}

void TouchPanel::use(int number) {
  const TouchUp* touchUp = chosen();
  if (touchUp == nullptr || number >= std::ssize(touchUp->tries) || touchUp->used == number) return;
  edit(number < 0 ? "As it was" : "Use another try", [number](TouchUp& t) { t.used = number; });
}

void TouchPanel::useNext(int by) {
  if (const TouchUp* touchUp = chosen(); touchUp != nullptr && !touchUp->tries.empty())
    use(std::clamp(touchUp->used + by, -1, static_cast<int>(touchUp->tries.size()) - 1));
}

void TouchPanel::pull() {
  const StudyState& state = desk_.document.state();
  if (chosen() == nullptr) return;
  if (desk_.finals.workFor(state.looking.final, state.looking.touchUp) != nullptr) return desk_.finals.stop();
  desk_.finals.pullTries(state.looking.final, state.looking.touchUp, static_cast<int>(count_->value()));
}

void TouchPanel::refresh() {
  const StudyState& state = desk_.document.state();
  const Final* final = state.shownFinal();
  const TouchUp* touchUp = chosen();
  none_->setVisible(touchUp == nullptr);
  inside_->setVisible(touchUp != nullptr);
  if (touchUp == nullptr) return;
  filling_ = true;
  const auto text = [](QLineEdit& edit, const std::string& value) {
    if (const QString now = QString::fromStdString(value); edit.text() != now) edit.setText(now);
  };
  text(*name_, touchUp->name);
  if (const QString now = QString::fromStdString(touchUp->words); words_->toPlainText() != now)
    words_->setPlainText(now);
  QString prompt;
  if (const ProofInfo* proof = desk_.proofs.proof(final->proof))
    prompt = QString::fromStdString(proof->recipe.brief.prompt);
  words_->setPlaceholderText(prompt.isEmpty() ? "What to make here" : "As the brief says: " + prompt);
  withBrief_->setChecked(touchUp->withBrief);
  start_->setCurrentIndex(static_cast<int>(touchUp->start));
  const auto show = [](const Row& row, double value, int decimals) {
    row.slider->setValue(static_cast<int>(std::lround(value * std::pow(10, decimals))));
    row.field->showValue(value);
  };
  show(change_, touchUp->change, limits::touchChange.decimals);
  change_.slider->setEnabled(touchUp->start != TouchStart::noise);
  change_.field->setEnabled(touchUp->start != TouchStart::noise);
  double detail = touchUp->detail.value_or(limits::touchDetail.usual);
  QString sees;
  try {
    const TouchView view = viewOf(*touchUp, final->size, *desk_.queue.engineInfo());
    if (!touchUp->detail) detail = std::clamp(view.detail(), limits::touchDetail.least, limits::touchDetail.most);
    sees = QString("Pulled at %1 x %2, %3 times larger than it is shown. ")
               .arg(view.job.width)
               .arg(view.job.height)
               .arg(view.detail(), 0, 'f', 1);
  } catch (const Problem&) {
    sees = "Draw on the picture where it acts. ";
  }
  show(detail_, detail, limits::touchDetail.decimals);
  likes_->setEnabled(touchUp->detail.has_value());
  show(rim_, touchUp->rim, limits::touchRim.decimals);
  show(feather_, touchUp->feather, limits::touchFeather.decimals);
  refreshGuides(*final, *touchUp);
  refreshTries(*touchUp);
  const FinalWork* work = desk_.finals.workFor(final->id, touchUp->id);
  const int count = static_cast<int>(count_->value());
  pull_->setText(work != nullptr ? QString("Stop")
                 : count == 1    ? QString("Pull a try")
                                 : QString("Pull %1 tries").arg(count));
  pull_->setEnabled(work != nullptr || !touchUp->region.empty());
  asItWas_->setEnabled(touchUp->used >= 0);
  note_->setText(sees + "What lies outside the region is the same to the last bit; inside its feather the two mix.");
  filling_ = false;
}

void TouchPanel::refreshGuides(const Final& final, const TouchUp& touchUp) {
  const ProofInfo* proof = desk_.proofs.proof(final.proof);
  std::vector<RecipeGuide> wanted;
  if (proof != nullptr) wanted = proof->recipe.guides;
  const bool same = wanted.size() == guides_.size() &&
                    std::equal(wanted.begin(), wanted.end(), guides_.begin(),
                               [](const RecipeGuide& a, const GuideRow& b) { return a.guide.id == b.id; });
  auto* column = static_cast<QVBoxLayout*>(guidesBox_->layout());
  if (!same) {
    while (QLayoutItem* item = column->takeAt(0)) {
      if (item->widget() != nullptr) item->widget()->deleteLater();
      delete item;
    }
    guides_.clear();
    for (const RecipeGuide& entry : wanted) {
      auto* line = new QWidget;
      auto* row = new QHBoxLayout(line);
      row->setContentsMargins(0, 0, 0, 0);
      row->setSpacing(8);
      const Kind& kind = kindOf(entry.guide.kind);
      GuideRow made{entry.guide.id, new QLabel(QString(QChar(kind.letter))), new QLabel, new ScrubField,
                    new SwitchButton(kindColour(kind.id))};
      made.mark->setFixedSize(20, 20);
      made.mark->setAlignment(Qt::AlignCenter);
      made.mark->setFont(textFont(9, QFont::DemiBold));
      setOwnSheet(*made.mark,
                  QString("background: %1; color: #1c1c1c; border-radius: 3px;").arg(kindColour(kind.id).name()));
      made.name->setText(QString::fromStdString(entry.guide.name));
      made.weight->setObjectName("touch-up weight " + QString::fromStdString(entry.guide.id));
      made.weight->setAccessibleName("Weight here");
      made.weight->setUp(limits::weight);
      made.weight->setFixedWidth(58);
      made.on->setObjectName("touch-up guide " + QString::fromStdString(entry.guide.id));
      made.on->setAccessibleName("Acts here");
      made.on->setCheckable(true);
      const std::string id = entry.guide.id;
      const double usual = entry.guide.weight;
      connect(made.weight, &ScrubField::edited, this, [this, id, usual](double value) {
        edit(
            "Weight in a touch-up",
            [&](TouchUp& t) {
              t.guides.try_emplace(id, TouchGuide{true, usual}).first->second.weight = value;
            },
            "touch-up weight " + id);
      });
      connect(made.weight, &ScrubField::finished, this, [this] { desk_.document.seal(); });
      connect(made.on, &QAbstractButton::clicked, this, [this, id, usual](bool on) {
        edit("Guide in a touch-up", [&](TouchUp& t) {
          t.guides.try_emplace(id, TouchGuide{true, usual}).first->second.on = on;
        });
      });
      row->addWidget(made.mark);
      row->addWidget(made.name, 1);
      row->addWidget(made.weight);
      row->addWidget(made.on);
      column->addWidget(line);
      guides_.push_back(made);
    }
    if (wanted.empty()) column->addWidget(noteLabel("The proof had no guides."));
  }
  for (std::size_t i = 0; i < guides_.size(); ++i) {
    const auto own = touchUp.guides.find(guides_[i].id);
    const TouchGuide guide = own != touchUp.guides.end() ? own->second : TouchGuide{true, wanted[i].guide.weight};
    guides_[i].weight->showValue(guide.weight);
    guides_[i].weight->setEnabled(guide.on);
    guides_[i].on->setChecked(guide.on);
  }
}

void TouchPanel::refreshTries(const TouchUp& touchUp) {
  while (tries_->count() > static_cast<int>(touchUp.tries.size())) delete tries_->takeItem(tries_->count() - 1);
  while (tries_->count() < static_cast<int>(touchUp.tries.size())) tries_->addItem(new QListWidgetItem);
  for (std::size_t i = 0; i < touchUp.tries.size(); ++i) {
    QListWidgetItem* item = tries_->item(static_cast<int>(i));
    const TouchTry& one = touchUp.tries[i];
    const bool used = static_cast<int>(i) == touchUp.used;
    item->setData(tryPictureRole, QString::fromStdString(one.picture));
    item->setData(tryUsedRole, used);
    item->setText(used ? QString("try %1, in use").arg(i + 1) : QString("try %1").arg(i + 1));
    item->setToolTip(QString("Seed %1, change %2, %3 s%4")
                         .arg(one.seed)
                         .arg(one.change, 0, 'f', 2)
                         .arg(one.milliseconds / 1000, 0, 'f', 1)
                         .arg(one.words.empty() ? QString() : "\n" + QString::fromStdString(one.words)));
  }
  if (touchUp.tries.empty())
    seeds_->setText("none yet");
  else
    seeds_->setText(QString("seeds %1 to %2").arg(touchUp.tries.front().seed).arg(touchUp.tries.back().seed));
}

}  // namespace hscaffold::app
