#include "app/brief/prompt_edit.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QRegularExpression>
#include <QScrollBar>
#include <QSignalBlocker>
#include <QSyntaxHighlighter>
#include <QWheelEvent>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/undo_keys.h"
#include "core/engine/engine.h"

namespace hscaffold::app {
namespace {

constexpr double step = 0.05;

/// Characters before a place that is given in UTF-16 units, and the other way round.
int pointsBefore(const QString& text, int units) { return static_cast<int>(text.left(units).toUcs4().size()); }
int unitsBefore(const QString& text, int points) {
  int units = 0;
  for (int i = 0; i < points && units < text.size(); ++i) units += text.at(units).isHighSurrogate() ? 2 : 1;
  return static_cast<int>(std::min<qsizetype>(units, text.size()));
}

double rounded(double weight) {
  return std::clamp(std::round(weight / step) * step, limits::emphasis.least, limits::emphasis.most);
}

}  // namespace

/// Words that the engine acts on are underlined, so that it is seen what it will act on; type is as heavy as the
/// phrase.
class PromptEdit::Marks : public QSyntaxHighlighter {
 public:
  explicit Marks(PromptEdit& edit) : QSyntaxHighlighter(edit.document()), edit_(edit) {}

 protected:
  void highlightBlock(const QString& text) override {
    static const QRegularExpression word("[\\w]+");
    QTextCharFormat format;
    format.setUnderlineStyle(QTextCharFormat::DotLine);
    format.setUnderlineColor(theme().accent);
    for (auto found = word.globalMatch(text); found.hasNext();) {
      const auto match = found.next();
      if (edit_.words_ && edit_.words_->all.contains(match.captured().toLower().toStdString()))
        setFormat(static_cast<int>(match.capturedStart()), static_cast<int>(match.capturedLength()), format);
    }
    const QString whole = edit_.toPlainText();
    const int block = currentBlock().position();
    for (const Emphasis& e : edit_.emphasis_) {
      const int first = unitsBefore(whole, e.first) - block, end = unitsBefore(whole, e.first + e.length) - block;
      for (int i = std::max(0, first); i < std::min(end, static_cast<int>(text.size())); ++i) {
        QTextCharFormat at = this->format(i);
        at.setFontWeight(e.weight > 1 ? static_cast<int>(500 + 400 * (e.weight - 1))
                                      : static_cast<int>(400 - 200 * (1 - std::max(0.0, e.weight))));
        if (e.weight < 1) at.setForeground(theme().softText);
        if (e.weight <= 0) at.setFontStrikeOut(true);
        setFormat(i, 1, at);
      }
    }
  }

 private:
  PromptEdit& edit_;
};

/// The number under a selected phrase, dragged up and down.
class PromptEdit::Knob : public QLabel {
 public:
  explicit Knob(PromptEdit& edit) : QLabel(edit.viewport()), edit_(edit) {
    setObjectName("emphasis knob");
    setFont(textFont(9, QFont::DemiBold));
    setAlignment(Qt::AlignCenter);
    setCursor(Qt::SizeVerCursor);
    setToolTip("Drag up or down: heavier or lighter. Double click: plain. Also Ctrl with the wheel or with arrows.");
    resize(54, 20);
    hide();
  }
  [[nodiscard]] bool held() const { return held_; }

 protected:
  void mousePressEvent(QMouseEvent* event) override {
    held_ = true;
    from_ = event->globalPosition().y();
    weight_ = edit_.emphasisHere();
  }
  void mouseMoveEvent(QMouseEvent* event) override {
    if (held_) edit_.emphasise(weight_ + (from_ - event->globalPosition().y()) * 0.01);
  }
  void mouseReleaseEvent(QMouseEvent*) override {
    held_ = false;
    emit edit_.finished();
    edit_.placeKnob();
  }
  void mouseDoubleClickEvent(QMouseEvent*) override {
    edit_.emphasise(1);
    emit edit_.finished();
  }
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(theme().accent);
    painter.setBrush(theme().ground);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    painter.setPen(theme().text);
    painter.setFont(font());
    painter.drawText(rect(), Qt::AlignCenter, text());
  }

 private:
  PromptEdit& edit_;
  bool held_ = false;
  double from_ = 0, weight_ = 1;
};

PromptEdit::PromptEdit(QWidget* parent) : QTextEdit(parent) {
  setAcceptRichText(false);
  // The study's history has every change of the words, emphasis and all.
  setUndoRedoEnabled(false);
  setTabChangesFocus(true);
  marks_ = new Marks(*this);
  knob_ = new Knob(*this);
  // Qt tells of new formats as of new text.
  connect(this, &QTextEdit::textChanged, this, [this] {
    if (const QString text = toPlainText(); text != shown_) {
      shown_ = text;
      emit promptEdited(text.toStdString());
    }
  });
  connect(this, &QTextEdit::selectionChanged, this, &PromptEdit::placeKnob);
  connect(verticalScrollBar(), &QScrollBar::valueChanged, this, &PromptEdit::placeKnob);
  connect(&themeSignals(), &ThemeSignals::changed, this, [this] {
    const QSignalBlocker quiet(this);
    marks_->rehighlight();
  });
}

void PromptEdit::show(const std::string& prompt, const std::vector<Emphasis>& emphasis) {
  const QSignalBlocker quiet(this);
  const bool marksChange = emphasis != emphasis_;
  emphasis_ = emphasis;
  if (const QString text = QString::fromStdString(prompt); toPlainText() != text) {
    const int at = textCursor().position();
    setPlainText(text);
    QTextCursor cursor = textCursor();
    cursor.setPosition(std::min(at, static_cast<int>(text.size())));
    setTextCursor(cursor);
  }
  shown_ = toPlainText();
  if (!marksChange) return;
  marks_->rehighlight();
  placeKnob();
}

void PromptEdit::setWords(std::shared_ptr<const EngineWords> words) {
  if (words == words_) return;
  words_ = std::move(words);
  const QSignalBlocker quiet(this);
  marks_->rehighlight();
}

PromptEdit::Span PromptEdit::phrase() const {
  const QTextCursor cursor = textCursor();
  if (cursor.hasSelection()) return {cursor.selectionStart(), cursor.selectionEnd() - cursor.selectionStart()};
  const QString text = toPlainText();
  const int at = cursor.position();
  // A stretch of one weight is a phrase; elsewhere the word is.
  for (const Emphasis& e : emphasis_) {
    const int first = unitsBefore(text, e.first), end = unitsBefore(text, e.first + e.length);
    if (at >= first && at <= end) return {first, end - first};
  }
  int first = at, end = at;
  const auto letter = [&](int i) {
    return i >= 0 && i < text.size() && (text[i].isLetterOrNumber() || text[i] == '-');
  };
  while (letter(first - 1)) --first;
  while (letter(end)) ++end;
  return {first, end - first};
}

double PromptEdit::emphasisHere() const {
  const int at = pointsBefore(toPlainText(), phrase().first);
  for (const Emphasis& e : emphasis_)
    if (at >= e.first && at < e.first + e.length) return e.weight;
  return 1;
}

void PromptEdit::emphasise(double weight) {
  const Span span = phrase();
  if (span.length == 0) return;
  const QString text = toPlainText();
  const int first = pointsBefore(text, span.first), end = pointsBefore(text, span.first + span.length);
  auto next = emphasis_;
  next.push_back({first, end - first, rounded(weight)});
  next = inOrder(next, static_cast<std::size_t>(text.toUcs4().size()));
  if (next == emphasis_) return;
  show(text.toStdString(), next);
  emit emphasisEdited(next);
}

void PromptEdit::placeKnob() {
  const QTextCursor cursor = textCursor();
  if (!cursor.hasSelection() || !hasFocus()) {
    if (!knob_->held()) knob_->hide();
    return;
  }
  knob_->setText(QString::number(emphasisHere(), 'f', 2));
  QTextCursor start = cursor, end = cursor;
  start.setPosition(cursor.selectionStart());
  end.setPosition(cursor.selectionEnd());
  const QRect from = cursorRect(start), to = cursorRect(end);
  const int middle = from.top() == to.top() ? (from.left() + to.left()) / 2 : to.left() - knob_->width() / 2;
  const bool above = to.bottom() + 4 + knob_->height() > viewport()->height() && from.top() > knob_->height() + 4;
  knob_->move(
      std::clamp(middle - knob_->width() / 2, 0, std::max(0, viewport()->width() - knob_->width())),
      above ? from.top() - 4 - knob_->height() : std::min(to.bottom() + 4, viewport()->height() - knob_->height()));
  knob_->show();
  knob_->raise();
  knob_->update();
}

bool PromptEdit::event(QEvent* event) { return leavesUndo(*event) || QTextEdit::event(event); }

void PromptEdit::keyPressEvent(QKeyEvent* event) {
  const bool up = event->key() == Qt::Key_Up;
  if (event->modifiers() == Qt::ControlModifier && (up || event->key() == Qt::Key_Down)) {
    emphasise(emphasisHere() + (up ? step : -step));
    return;
  }
  QTextEdit::keyPressEvent(event);
}

void PromptEdit::wheelEvent(QWheelEvent* event) {
  if (event->modifiers() != Qt::ControlModifier) return QTextEdit::wheelEvent(event);
  emphasise(emphasisHere() + (event->angleDelta().y() > 0 ? step : -step));
  event->accept();
}

void PromptEdit::focusOutEvent(QFocusEvent* event) {
  QTextEdit::focusOutEvent(event);
  placeKnob();
  emit finished();
}

void PromptEdit::resizeEvent(QResizeEvent* event) {
  QTextEdit::resizeEvent(event);
  placeKnob();
}

void PromptEdit::insertFromMimeData(const QMimeData* source) {
  // However long what is pasted is, only what may be kept comes in.
  if (source->hasText()) insertPlainText(source->text().left(static_cast<qsizetype>(2 * longestPrompt)));
}

}  // namespace hscaffold::app
