#include "app/bench/proof_strip.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/theme/theme.h"

namespace hscaffold::app {
namespace {

constexpr QSize thumb{76, 50};
constexpr std::size_t mostShown = 40;

double meanHold(const ProofInfo& proof) {
  if (proof.holds.empty()) return -1;
  double sum = 0;
  for (const auto& [id, hold] : proof.holds) sum += hold;
  return sum / static_cast<double>(proof.holds.size());
}

QString holdText(const ProofInfo& proof) {
  const double hold = meanHold(proof);
  return hold >= 0 ? QString("hold %1").arg(std::lround(hold))
                   : QString(proof.recipe.guides.empty() ? "no guide" : "not measured");
}

/// A hold as a bar, 0 to 100; nothing for a negative one.
class HoldBar : public QWidget {
 public:
  HoldBar() { setFixedSize(88, 5); }
  double value = -1;

 protected:
  void paintEvent(QPaintEvent*) override {
    if (value < 0) return;
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme().ground);
    painter.drawRoundedRect(rect(), 2, 2);
    painter.setBrush(theme().good);
    painter.drawRoundedRect(QRectF(0, 0, width() * value / 100, height()), 2, 2);
  }
};

}  // namespace

ProofStrip::ProofStrip(StudySession& session, QWidget* parent) : QWidget(parent), session_(session) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 6, 12, 6);
  column->setSpacing(6);
  head_ = new QWidget;
  auto* head = new QHBoxLayout(head_);
  head->setContentsMargins(12, 2, 12, 2);
  hold_ = new QLabel;
  hold_->setToolTip("How much of the guides' layout is in the shown proof, 0 to 100");
  bar_ = new HoldBar;
  about_ = new QLabel;
  about_->setProperty("role", "note");
  about_->setFont(textFont(9));
  adopt_ = new QPushButton("Adopt settings");
  adopt_->setProperty("role", "link");
  adopt_->setToolTip("Bring back everything this proof was made with (Ctrl+Shift+A)");
  adopt_->setShortcut(QKeySequence("Ctrl+Shift+A"));
  connect(adopt_, &QPushButton::clicked, this, &ProofStrip::adopt);
  save_ = new QPushButton("Export");
  save_->setProperty("role", "link");
  save_->setToolTip("Write the shown proof with its recipe as PNG (Ctrl+E)");
  connect(save_, &QPushButton::clicked, this, &ProofStrip::exportAsked);
  head->addWidget(hold_);
  head->addWidget(bar_);
  head->addWidget(about_, 1);
  head->addWidget(save_);
  head->addWidget(adopt_);
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  scroll->setFixedHeight(thumb.height() + 30);
  scroll->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  row_ = new QHBoxLayout(inside);
  row_->setContentsMargins(0, 0, 0, 8);
  row_->setSpacing(6);
  scroll->setWidget(inside);
  column->addWidget(scroll);
  connect(&session_, &StudySession::changed, this, &ProofStrip::refresh);
  connect(&session_, &StudySession::proofsChanged, this, &ProofStrip::refresh);
  refresh();
}

void ProofStrip::adopt() {
  const ProofInfo* proof = session_.proof(session_.state().shownProof);
  if (proof == nullptr) return;
  std::vector<std::string> lost;
  session_.change(QString("Adopt settings of proof %1").arg(proof->number),
                  [&](StudyState& s) { lost = adoptRecipe(s, proof->recipe); });
  for (const auto& sentence : lost) emit session_.notice(QString::fromStdString(sentence));
}

void ProofStrip::refresh() {
  const auto& state = session_.state();
  const ProofInfo* shown = session_.proof(state.shownProof);
  adopt_->setEnabled(shown != nullptr);
  static_cast<HoldBar*>(bar_)->value = shown != nullptr ? meanHold(*shown) : -1;
  hold_->setText(static_cast<HoldBar*>(bar_)->value >= 0
                     ? QString("Hold %1").arg(std::lround(static_cast<HoldBar*>(bar_)->value))
                     : QString());
  about_->setText(shown == nullptr ? QString()
                                   : QString("seed %1, %2 steps, %3 s")
                                         .arg(shown->recipe.brief.seed)
                                         .arg(shown->recipe.brief.steps)
                                         .arg(shown->milliseconds / 1000, 0, 'f', 1));
  about_->setToolTip(shown != nullptr ? QString::fromStdString(shown->recipe.brief.prompt) : QString());
  bar_->update();
  save_->setVisible(shown != nullptr);
  adopt_->setVisible(shown != nullptr);
  const auto proofs = session_.shownProofs();
  std::string key = std::to_string(state.shownProof);
  for (const ProofInfo* proof : proofs) key += "," + std::to_string(proof->number);
  if (key == key_) return;
  key_ = key;
  while (QLayoutItem* item = row_->takeAt(0)) {
    if (item->widget() != nullptr) item->widget()->deleteLater();
    delete item;
  }
  for (std::size_t i = 0; i < proofs.size() && i < mostShown; ++i) {
    const ProofInfo& proof = *proofs[i];
    auto* button = new QToolButton;
    button->setCheckable(true);
    button->setChecked(proof.number == state.shownProof);
    const double ratio = devicePixelRatioF();
    QImage image = session_.proofThumbnail(proof.number)
                       .scaled((QSizeF(thumb) * ratio).toSize(), Qt::KeepAspectRatio, Qt::SmoothTransformation);
    image.setDevicePixelRatio(ratio);
    button->setIcon(QPixmap::fromImage(image));
    button->setIconSize(thumb);
    button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    button->setText(holdText(proof));
    button->setFont(textFont(8));
    button->setFixedSize(thumb.width() + 6, thumb.height() + 22);
    button->setStyleSheet("padding: 1px;");
    button->setAccessibleName(QString("Proof %1").arg(proof.number));
    QString tip = QString("Proof %1: seed %2").arg(proof.number).arg(proof.recipe.brief.seed);
    for (const auto& entry : proof.recipe.guides)
      tip += QString("\n%1: weight %2, %3 to %4 %")
                 .arg(QString::fromStdString(entry.guide.name))
                 .arg(entry.guide.weight, 0, 'f', 2)
                 .arg(entry.guide.range.from)
                 .arg(entry.guide.range.to);
    button->setToolTip(tip);
    connect(button, &QToolButton::clicked, this,
            [this, number = proof.number] { session_.choose([&](StudyState& s) { s.shownProof = number; }); });
    button->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(button, &QWidget::customContextMenuRequested, this,
            [this, button, number = proof.number](const QPoint& at) {
              QMenu menu;
              menu.addAction("Use as reference", this, [this, number] {
                session_.bringIn(session_.proofImage(number), QString("proof-%1.png").arg(number));
              });
              menu.addAction("Put away", this, [this, number] {
                session_.change(QString("Put proof %1 away").arg(number), [&](StudyState& s) {
                  s.discarded.push_back(number);
                  if (s.shownProof == number) s.shownProof = 0;
                });
              });
              menu.exec(button->mapToGlobal(at));
            });
    row_->addWidget(button);
  }
  row_->addStretch(1);
}

}  // namespace hscaffold::app
