/// The stage as its eye sees it: the frame always whole, what lies beyond it dimmed. Things are dragged along the
/// ground, joints in the picture's plane or along the ground, limbs turned by their rings; where nothing is, a drag
/// goes round what is chosen.
#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <optional>

#include "app/stage/stage_canvas.h"
#include "app/stage/stage_work.h"
#include "core/image/image.h"
#include "core/stage/leading.h"
#include "core/stage/photograph.h"

class QMenu;

namespace hscaffold::app {

inline constexpr double reach = 11;  ///< pixels from a handle at which it is taken
inline constexpr float inDegrees = 180 / stage::pi;
/// How high a thing is about, metres.
float heightOf(const stage::Thing& thing);

class StageTable : public QWidget {
  Q_OBJECT
 public:
  StageTable(Desk& desk, StageWork& work, QWidget* parent = nullptr);
  /// Where a place of the stage is on the widget; empty behind the eye.
  [[nodiscard]] std::optional<QPointF> placeOf(const stage::Vec3& at) const;
  /// A key point of the chosen figure, as shown; empty if no figure is chosen.
  [[nodiscard]] std::optional<QPointF> jointPlace(const char* id) const;
  /// The joint whose turns are shown: its place among the skeleton's joints.
  [[nodiscard]] std::optional<std::size_t> chosenJoint() const;
  /// Chooses a key point of the chosen figure, or one of its joints that no point is at: "waist".
  void chooseJoint(const std::string& id);
  /// A place on the ring of a turn where it is `degrees` from how it is now; empty if no such ring is shown.
  [[nodiscard]] std::optional<QPointF> ringPlace(const std::string& turn, double degrees) const;
  /// "left wrist: reaches 96 % of the arm"; empty if none is chosen.
  [[nodiscard]] QString jointSentence() const;
  /// A reference laid over the frame, [0, 1]; without an id none.
  void setGhost(const std::string& reference, double share);
  [[nodiscard]] const std::string& ghost() const { return ghost_; }
  /// Lines over the picture from which its eye is found: the horizon and two uprights, dragged by their ends.
  void showLines(bool shown);
  [[nodiscard]] bool linesShown() const { return lines_.has_value(); }
  /// Ends of the lines on the widget, as long as they are shown: horizon, left, right.
  [[nodiscard]] std::vector<QPointF> lineEnds() const;
  /// What can be done with what is chosen.
  void showMenu(QPoint global);
  [[nodiscard]] QRectF frameOnTable() const;
  /// What of the scene is not whole in the frame.
  [[nodiscard]] const QStringList& outside() const { return outside_; }
  [[nodiscard]] bool shown() const { return !picture_.isNull(); }

 signals:
  void outsideChanged();
  void jointChanged();  ///< another one is chosen, or it is elsewhere
  void turnsAsked();    ///< degrees are to be typed
  void cutAsked();      ///< what is chosen goes to the clipboard
  void linesDone();     ///< lines over the picture were put away by a key

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool focusNextPrevChild(bool next) override;
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;

 private:
  enum class Grip { none, thing, joint, ring, line, orbit, look, pan };
  /// Whether the eye goes along with it, and all of the picture.
  [[nodiscard]] static bool isOfEye(Grip grip) {
    return grip == Grip::line || grip == Grip::orbit || grip == Grip::look || grip == Grip::pan;
  }
  /// What of a figure can be taken hold of: a key point, or a joint that no point is at.
  struct Handle {
    std::string id;
    std::optional<std::size_t> point, joint;
    stage::Vec3 at;
  };
  struct Ring {
    std::size_t turn;                            ///< of the skeleton, or `wristBend`
    std::vector<std::optional<QPointF>> places;  ///< a degree each, from the turn as it is now
    double least, most;                          ///< how far it may go either way
  };
  /// How a hand bends, which is no turn of the skeleton.
  static constexpr std::size_t wristBend = static_cast<std::size_t>(-1);
  /// A ring about an axis, as large on the screen as fingers and mice need it.
  [[nodiscard]] std::vector<std::optional<QPointF>> ringAbout(const stage::Vec3& middle, const stage::Vec3& axis,
                                                              const stage::Vec3& along, float least) const;
  /// Of the chosen wrist.
  [[nodiscard]] std::optional<Ring> wristRing(const stage::Thing& thing) const;
  void request();
  [[nodiscard]] stage::Camera wideCamera() const;
  [[nodiscard]] stage::Vec3 target() const;
  /// Where the line of sight through a place of the widget meets the level of a height.
  [[nodiscard]] std::optional<stage::Vec3> onLevel(QPointF at, float height) const;
  void orbit(double across, double down, const stage::Vec3& about);
  void dolly(double factor);
  /// Round the place of the eye itself.
  void lookRound(double across, double down);
  /// @param level  along the ground, otherwise in the picture's plane
  void dragJoint(QPointF to, bool level);
  void leadBy(const stage::Thing& start, const stage::Vec3& by, const std::string& merge);
  void dragRing(QPointF to);
  void nudgeJoint(QPointF by, Qt::KeyboardModifiers keys);
  bool nextJoint(bool forward);
  void findHandles();
  [[nodiscard]] const Handle* handle() const;
  [[nodiscard]] std::vector<Ring> rings() const;
  [[nodiscard]] const Handle* handleAt(QPointF at) const;
  /// What is shown there, by its id; empty: nothing.
  [[nodiscard]] std::string thingAt(QPointF at) const;
  [[nodiscard]] std::optional<std::size_t> degreeAt(const Ring& ring, QPointF at, double within) const;
  void paintJoints(QPainter& painter) const;
  void paintRings(QPainter& painter) const;
  void paintFrame(QPainter& painter) const;
  void paintLines(QPainter& painter) const;
  void dragLine(QPointF to);
  void paintName(QPainter& painter, const stage::Thing& thing) const;
  void addChoices(QMenu& menu, const QString& title, bool eye,
                  const std::function<void(const std::string&)>& choose) const;
  /// Guides of the stage whose hand work may go along with the chosen thing, or with its chosen joint.
  void addFastening(QMenu& menu, const stage::Thing& thing) const;

  Desk& desk_;
  StageWork& work_;
  std::shared_ptr<StageCanvas> canvas_ = std::make_shared<StageCanvas>();
  QImage picture_;
  Image<std::uint16_t> object_;   ///< of the shown picture, at its size; numbers are places in the shown things plus 1
  std::vector<std::string> ids_;  ///< of the shown things
  std::vector<Handle> handles_;   ///< of the chosen figure, as the scene has it now
  stage::Standing standing_;      ///< the same
  std::string handle_;            ///< chosen, by id; empty: none
  QStringList outside_;
  Grip grip_ = Grip::none;
  QPointF pressed_, lift_;  ///< from the pointer to where the dragged thing stands
  stage::Scene begun_;      ///< as it was when the drag began
  std::string begunText_;   ///< the same
  stage::Vec3 about_ = stage::Vec3::Zero();
  std::size_t turn_ = 0, degree_ = 0;         ///< of the ring that is dragged, and where it was taken
  std::optional<stage::PictureLines> lines_;  ///< in the frame's pixels
  std::size_t end_ = 0;                       ///< of `lineEnds`, dragged
  std::string ghost_;
  double ghostShare_ = 0;
  int drags_ = 0;
  bool moved_ = false;
  DragPace eyePace_{2}, thingPace_{1};
};

}  // namespace hscaffold::app
