#include "app/bench/clip_dialog.h"

#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QRegularExpression>
#include <QScrollArea>
#include <QSlider>
#include <QVBoxLayout>
#include <cmath>

#include "app/bench/bench_parts.h"
#include "app/images.h"
#include "app/theme/theme.h"
#include "app/widgets/note_label.h"
#include "core/pose/pose_map.h"
#include "files/figure_files.h"

namespace hscaffold::app {

class ClipDialog::Preview : public QWidget {
 public:
  explicit Preview(const ClipDialog* dialog) : dialog_(dialog) { setMinimumSize(320, 320); }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.fillRect(rect(), Qt::black);
    const auto figure = dialog_->figure();
    if (!figure) {
      painter.setPen(QColor("#f3efe6"));
      painter.drawText(rect().adjusted(20, 0, -20, 0), Qt::AlignCenter | Qt::TextWordWrap,
                       "Choose the joints that are missing");
      return;
    }
    const double ratio = devicePixelRatioF();
    const Size size{static_cast<int>(width() * ratio), static_cast<int>(height() * ratio)};
    pose::Figures one;
    one.frame = size;
    one.figures = {std::make_shared<const pose::Figure>(inTheMiddle(*figure, size))};
    QImage image = toQImage(pose::drawnFigures(one, size, pose::houseInks()));
    image.setDevicePixelRatio(ratio);
    painter.drawImage(0, 0, image);
  }

 private:
  const ClipDialog* dialog_;
};

ClipDialog::ClipDialog(pose::BvhClip clip, const QString& name, QWidget* parent, const QString& take)
    : QDialog(parent), clip_(std::move(clip)), mapping_(pose::mappingByName(clip_)) {
  setWindowTitle("A frame of " + name);
  resize(760, 520);
  auto* row = new QHBoxLayout(this);
  auto* left = new QVBoxLayout;
  preview_ = new Preview(this);
  left->addWidget(preview_, 1);
  auto* grid = new QGridLayout;
  grid->setColumnStretch(1, 1);
  const auto slider = [&](int line, const QString& title, int least, int most, int value, QLabel*& text) {
    auto* label = new QLabel(title);
    auto* made = new QSlider(Qt::Horizontal);
    made->setRange(least, most);
    made->setValue(value);
    made->setAccessibleName(title);
    text = new QLabel;
    text->setFont(textFont(9));
    text->setFixedWidth(96);
    text->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    grid->addWidget(label, line, 0);
    grid->addWidget(made, line, 1);
    grid->addWidget(text, line, 2);
    connect(made, &QSlider::valueChanged, this, &ClipDialog::refresh);
    return made;
  };
  const int last = static_cast<int>(clip_.frames) - 1;
  frame_ = slider(0, "Frame", 0, last, 0, frameText_);
  turn_ = slider(1, "Camera round", -180, 180, 0, turnText_);
  rise_ = slider(2, "Camera up", -80, 80, 0, riseText_);
  left->addLayout(grid);
  keys_ = new QHBoxLayout;
  keys_->setSpacing(4);
  keys_->addWidget(noteLabel("Key poses"));
  keys_->addStretch(1);
  left->addLayout(keys_);
  row->addLayout(left, 3);

  auto* right = new QVBoxLayout;
  auto* title = new QLabel("Joints");
  title->setProperty("role", "title");
  right->addWidget(title);
  missing_ = new QLabel;
  missing_->setProperty("role", "note");
  missing_->setFont(textFont(9));
  missing_->setWordWrap(true);
  right->addWidget(missing_);
  auto* scroll = new QScrollArea;
  scroll->setWidgetResizable(true);
  auto* inside = new QWidget;
  auto* table = new QGridLayout(inside);
  table->setVerticalSpacing(3);
  int line = 0;
  std::vector<std::string> points = pose::missingIn({});
  points.insert(points.begin(), "neck");
  for (const std::string& point : points) {
    auto* label = new QLabel(QString::fromStdString(point).replace('_', ' '));
    label->setFont(textFont(9));
    auto* choice = new QComboBox;
    choice->setFont(textFont(9));
    choice->setAccessibleName(label->text());
    choice->addItem("(none)", -1);
    for (std::size_t j = 0; j < clip_.joints.size(); ++j)
      if (!clip_.joints[j].end) choice->addItem(QString::fromStdString(clip_.joints[j].name), static_cast<int>(j));
    const auto known = mapping_.find(point);
    choice->setCurrentIndex(known != mapping_.end() ? choice->findData(known->second) : 0);
    connect(choice, &QComboBox::currentIndexChanged, this, [this, point, choice] {
      if (const int joint = choice->currentData().toInt(); joint >= 0)
        mapping_[point] = joint;
      else
        mapping_.erase(point);
      refresh();
    });
    table->addWidget(label, line, 0);
    table->addWidget(choice, line++, 1);
    joints_.emplace_back(point, choice);
  }
  table->setRowStretch(line, 1);
  scroll->setWidget(inside);
  right->addWidget(scroll, 1);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1);
  auto* cancel = new QPushButton("Cancel");
  connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
  buttons->addWidget(cancel);
  take_ = new QPushButton(take);
  take_->setProperty("role", "primary");
  take_->setDefault(true);
  connect(take_, &QPushButton::clicked, this, &QDialog::accept);
  buttons->addWidget(take_);
  right->addLayout(buttons);
  row->addLayout(right, 2);
  frame_->setFocus();
  refresh();
}

QComboBox& ClipDialog::jointFor(const std::string& point) {
  return *std::find_if(joints_.begin(), joints_.end(), [&](const auto& entry) { return entry.first == point; })->second;
}

std::optional<pose::Figure> ClipDialog::figure() const {
  try {
    return pose::figureOf(clip_, static_cast<std::size_t>(frame_->value()), mapping_,
                          {static_cast<double>(turn_->value()), static_cast<double>(rise_->value())});
  } catch (const Problem&) {
    return {};
  }
}

std::size_t ClipDialog::frame() const { return static_cast<std::size_t>(frame_->value()); }

double ClipDialog::turn() const { return turn_->value(); }

void ClipDialog::findKeys() {
  keysOf_ = mapping_;
  for (auto* old : findChildren<QPushButton*>(QRegularExpression("^key pose "))) delete old;
  int place = 1;
  for (const std::size_t frame : pose::keyFrames(clip_, mapping_)) {
    auto* button = namedButton(qPrintable(QString("key pose %1").arg(frame)), QString::number(frame),
                               "A frame in which the motion turns round or rests", "link");
    connect(button, &QPushButton::clicked, this, [this, frame] { frame_->setValue(static_cast<int>(frame)); });
    keys_->insertWidget(place++, button);
  }
}

void ClipDialog::refresh() {
  frameText_->setText(QString("%1 of %2, %3 s")
                          .arg(frame_->value())
                          .arg(clip_.frames - 1)
                          .arg(frame_->value() * clip_.secondsAFrame, 0, 'f', 2));
  turnText_->setText(QString::fromUtf8("%1\xC2\xB0").arg(turn_->value()));
  riseText_->setText(QString::fromUtf8("%1\xC2\xB0").arg(rise_->value()));
  const auto missing = pose::missingIn(mapping_);
  QStringList names;
  for (const std::string& point : missing) names << QString::fromStdString(point).replace('_', ' ');
  missing_->setText(missing.empty() ? QString("Every joint is known.") : "Missing: " + names.join(", ") + ".");
  take_->setEnabled(missing.empty());
  if (missing.empty() && keysOf_ != mapping_) findKeys();
  preview_->update();
}

}  // namespace hscaffold::app
