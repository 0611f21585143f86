#include "app/brief/styles_leaf.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QScrollBar>
#include <QStyledItemDelegate>
#include <QTimer>
#include <QVBoxLayout>
#include <cmath>

#include "app/images.h"
#include "app/theme/theme.h"
#include "app/widgets/menus.h"
#include "core/image/png.h"

namespace hscaffold::app {
namespace {

constexpr QSize cardThumb{84, 50};
constexpr int cardHeight = cardThumb.height() + 42, cardWidth = cardThumb.width() + 8;
constexpr double strengthStep = 0.05, firstStrength = 0.8;

/// The bar of a card, in the view's coordinates.
QRectF barOf(const QRect& item) {
  return {item.left() + 8.0, item.top() + cardThumb.height() + 24.0, cardWidth - 48.0, 12.0};
}

class CardDelegate : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {cardWidth + 4, cardHeight};
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    painter->save();
    painter->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    const QRectF box = QRectF(option.rect).adjusted(1, 1, -5, -1);
    const double strength = index.data(StyleModel::strengthRole).toDouble();
    const bool current = option.state.testFlag(QStyle::State_HasFocus);
    painter->setPen(QPen(strength > 0 ? theme().accent
                         : current    ? theme().softText
                                      : theme().line,
                         strength > 0 ? 1.6 : 1));
    painter->setBrush(theme().raised);
    painter->drawRoundedRect(box, 3, 3);
    const QRectF place(box.left() + 2, box.top() + 2, box.width() - 4, cardThumb.height());
    if (const QImage image = index.data(Qt::DecorationRole).value<QImage>(); !image.isNull())
      painter->drawImage(place, image);
    painter->setFont(textFont(8.5, strength > 0 ? QFont::DemiBold : QFont::Normal));
    painter->setPen(strength > 0 ? theme().text : theme().softText);
    const QRectF name(box.left() + 6, place.bottom() + 2, box.width() - 8, 17);
    painter->drawText(
        name, Qt::AlignVCenter | Qt::AlignLeft,
        painter->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, static_cast<int>(name.width())));
    const QRectF bar = barOf(option.rect);
    painter->setFont(textFont(8.5, QFont::DemiBold));
    if (strength > 0) {
      const double at = bar.left() + bar.width() * strength / limits::strength.most;
      painter->setPen(Qt::NoPen);
      painter->setBrush(theme().ground);
      painter->drawRoundedRect(QRectF(bar.left(), bar.center().y() - 1.5, bar.width(), 3), 1, 1);
      painter->setBrush(theme().text);
      painter->drawRoundedRect(QRectF(bar.left(), bar.center().y() - 1.5, at - bar.left(), 3), 1, 1);
      painter->drawEllipse(QPointF(at, bar.center().y()), 4.5, 4.5);
      painter->setPen(theme().text);
      painter->drawText(QRectF(bar.right() + 5, bar.top() - 2, 32, 16), Qt::AlignVCenter | Qt::AlignLeft,
                        QString::number(strength, 'f', 2));
    } else {
      painter->setPen(theme().accent);
      painter->drawText(QRectF(box.left() + 6, bar.top() - 2, 60, 16), Qt::AlignVCenter | Qt::AlignLeft, "add");
    }
    painter->restore();
  }
};

/// The words of a prompt that say how a picture is made, not what is in it, and some more.
std::string wordsOfManner(const Brief& brief, const EngineWords* known, const std::vector<std::string>& more = {}) {
  std::vector<std::string> words;
  const auto add = [&](const std::string& word) {
    if (std::find(words.begin(), words.end(), word) == words.end()) words.push_back(word);
  };
  for (const StyleUse& use : brief.styles)
    for (const TextWord& word : wordsIn(use.words)) add(word.text);
  for (const TextWord& word : wordsIn(brief.prompt)) {
    if (known != nullptr && known->manner.contains(word.text)) add(word.text);
  }
  for (const std::string& word : more) add(word);
  std::string text;
  for (const auto& word : words) text += (text.empty() ? "" : ", ") + word;
  return text;
}

}  // namespace

StyleList::StyleList(StyleModel& model, QWidget* parent) : QListView(parent), model_(model) {
  setModel(&model);
  setItemDelegate(new CardDelegate(this));
  setFlow(QListView::LeftToRight);
  setWrapping(false);
  setUniformItemSizes(true);
  setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setSelectionMode(QAbstractItemView::SingleSelection);
  setFixedHeight(cardHeight + 12);
  setFrameShape(QFrame::NoFrame);
  setProperty("role", "strip");
  setObjectName("styles");
  setAccessibleName("Styles");
  connect(&themeSignals(), &ThemeSignals::changed, viewport(), qOverload<>(&QWidget::update));
}

void StyleList::turn(const QModelIndex& index) {
  const QString id = index.data(StyleModel::idRole).toString();
  model_.use(index, index.data(StyleModel::strengthRole).toDouble() > 0 ? 0 : firstStrength, false);
  if (const QModelIndex now = model_.indexOf(id); now.isValid()) setCurrentIndex(now);
}

void StyleList::setByBar(const QModelIndex& index, int x) {
  const QRectF bar = barOf(visualRect(index));
  const double strength =
      std::round((x - bar.left()) / bar.width() * limits::strength.most / strengthStep) * strengthStep;
  model_.use(index, std::clamp(strength, strengthStep, limits::strength.most), true);
}

void StyleList::keyPressEvent(QKeyEvent* event) {
  const QModelIndex index = currentIndex();
  const double strength = index.data(StyleModel::strengthRole).toDouble();
  switch (event->key()) {
    case Qt::Key_Space:
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (index.isValid()) turn(index);
      return;
    case Qt::Key_Plus:
    case Qt::Key_Minus:
      if (strength > 0)
        model_.use(index,
                   std::clamp(strength + (event->key() == Qt::Key_Plus ? strengthStep : -strengthStep), strengthStep,
                              limits::strength.most),
                   true);
      return;
    case Qt::Key_Delete:
      if (index.data(StyleModel::ownRole).toBool()) emit removeAsked(index.data(StyleModel::idRole).toString());
      return;
    default:
      QListView::keyPressEvent(event);
  }
}

void StyleList::mousePressEvent(QMouseEvent* event) {
  const QModelIndex index = indexAt(event->pos());
  dragged_.clear();
  pressed_.clear();
  if (!index.isValid() || event->button() != Qt::LeftButton) return QListView::mousePressEvent(event);
  setCurrentIndex(index);
  setFocus(Qt::MouseFocusReason);
  const QString id = index.data(StyleModel::idRole).toString();
  if (index.data(StyleModel::strengthRole).toDouble() > 0 &&
      barOf(visualRect(index)).adjusted(-6, -4, 6, 4).contains(event->pos())) {
    dragged_ = id;
    setByBar(index, event->pos().x());
  } else {
    pressed_ = id;
  }
}

void StyleList::mouseMoveEvent(QMouseEvent* event) {
  if (!dragged_.isEmpty()) setByBar(model_.indexOf(dragged_), event->pos().x());
}

void StyleList::mouseReleaseEvent(QMouseEvent* event) {
  if (!dragged_.isEmpty()) emit finished();
  const QModelIndex index = indexAt(event->pos());
  if (!pressed_.isEmpty() && index.isValid() && index.data(StyleModel::idRole).toString() == pressed_) turn(index);
  dragged_.clear();
  pressed_.clear();
}

void StyleList::wheelEvent(QWheelEvent* event) {
  const int by = event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x();
  horizontalScrollBar()->setValue(horizontalScrollBar()->value() - by);
  event->accept();
}

void StyleList::contextMenuEvent(QContextMenuEvent* event) {
  const QModelIndex index = indexAt(event->pos());
  if (!index.isValid()) return;
  const QString id = index.data(StyleModel::idRole).toString();
  QMenu* menu = newMenu(*this);
  menu->addAction(index.data(StyleModel::strengthRole).toDouble() > 0 ? "Take out" : "Add", this,
                  [this, id] { turn(model_.indexOf(id)); });
  if (index.data(StyleModel::strengthRole).toDouble() > 0)
    menu->addAction("Test strip over its strength...", this, [this, id] { emit stripAsked(id); });
  if (index.data(StyleModel::ownRole).toBool())
    menu->addAction("Delete this card", this, [this, id] { emit removeAsked(id); });
  menu->popup(event->globalPos());
}

StylesLeaf::StylesLeaf(Desk& desk, QWidget* parent) : QWidget(parent), desk_(desk) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  model_ = new StyleModel(desk_, this);
  list_ = new StyleList(*model_);
  connect(list_, &StyleList::stripAsked, this, [this](const QString& id) {
    emit desk_.stripAsked({Setting::style, id.toStdString(), {}, {}});
  });
  column->addWidget(list_);
  search_ = new QLineEdit;
  search_->setObjectName("search styles");
  search_->setPlaceholderText("Search styles");
  search_->setAccessibleName("Search styles");
  search_->setClearButtonEnabled(true);
  connect(search_, &QLineEdit::textChanged, model_, &StyleModel::setSearch);
  const auto link = [this](const char* name, const QString& text, const QString& tip) {
    auto* button = new QPushButton(text);
    button->setObjectName(name);
    button->setProperty("role", "link");
    button->setToolTip(tip);
    return button;
  };
  fromWords_ = link("style from words", "Card from words",
                    "A card of your own from the prompt's words for medium, mood, weather and hour");
  fromProof_ =
      link("style from proof", "Card from proof", "The same from the words of the shown proof and from its colours");
  connect(fromWords_, &QPushButton::clicked, this,
          [this] { make(wordsOfManner(desk_.document.state().brief, desk_.queue.engineInfo()->words.get())); });
  connect(fromProof_, &QPushButton::clicked, this, [this] {
    const ProofInfo* proof = desk_.proofs.current();
    const auto engine = desk_.queue.engine();
    if (proof == nullptr || !engine) return;
    // By values: the proof may go while it is looked at, and while its name is asked.
    desk_.tasks.run(
        this, "look in words", Priority::hand,
        [engine, read = desk_.proofs.reader(), number = proof->number](const StopToken&) {
          return engine->lookInWords(decodePngRgb8(read(number)));
        },
        [this, brief = proof->recipe.brief,
         words = desk_.queue.engineInfo()->words](const std::vector<std::string>& look) {
          // A name is asked, and what else arrives does not wait for the answer.
          QTimer::singleShot(0, this, [this, made = wordsOfManner(brief, words.get(), look)] { make(made); });
        });
  });
  auto* row = new QHBoxLayout;
  row->addWidget(search_, 1);
  row->addWidget(fromWords_);
  row->addWidget(fromProof_);
  column->addLayout(row);
  column->addStretch(1);
  connect(model_, &StyleModel::said, this, &StylesLeaf::said);
  connect(list_, &StyleList::finished, this, [this] { desk_.document.seal(); });
  connect(list_, &StyleList::removeAsked, this, [this](const QString& id) {
    try {
      model_->remove(id);
    } catch (const std::exception& error) {
      emit said(error.what());
    }
  });
  connect(&desk_.document, &StudyDocument::changed, this, [this](const Changes& changes) {
    if (changes.looking || changes.brief) refresh();
  });
  connect(&desk_.proofs, &ProofShelf::changed, this, &StylesLeaf::refresh);
  refresh();
}

void StylesLeaf::refresh() {
  fromProof_->setEnabled(desk_.proofs.current() != nullptr);
  fromWords_->setEnabled(!desk_.document.state().brief.prompt.empty());
}

void StylesLeaf::make(const std::string& how) {
  if (how.empty()) {
    emit said("There is no word for a medium, a mood, the weather or the hour that a card could be made of.");
    return;
  }
  bool given = false;
  const QString name =
      QInputDialog::getText(this, "A style of your own", "Its words: " + QString::fromStdString(how) + "\n\nName",
                            QLineEdit::Normal, {}, &given)
          .trimmed();
  if (!given || name.isEmpty()) return;
  try {
    model_->add({"", fittedText(name.toStdString(), longestName), how, true});
  } catch (const std::exception& error) {
    emit said(error.what());
  }
}

}  // namespace hscaffold::app
