// The stage: set, smoke or picture, from the shot camera or another view.
#pragma once
#include <map>
#include <memory>
#include <QTimer>
#include <QWidget>
#include <set>

#include "picture/focus.h"
#include "view/analyst.h"
#include "view/canvas.h"
#include "view/frames.h"
#include "view/gizmo.h"
#include "view/handle.h"

class QMenu;
class QPushButton;
class QLabel;

class Viewport : public QWidget {
  Q_OBJECT

 public:
  /// `before` are the frames of the compared run.
  Viewport(Document&, Runs&, Frames&, Frames& before, Analyst&, QWidget* parent = nullptr);
  ~Viewport() override;
  const Canvas& canvas() const { return *canvas_; }
  QImage picture() const;  // the picture without overlays
  /// The camera for a canvas of this size that shows the whole film frame.
  pour::Camera camera_for(const QSize&) const;
  pour::Look look() const;
  void paint_overlay(QPainter&);
  std::shared_ptr<const pour::LitFrame> smoke() const;
  std::shared_ptr<const std::vector<pour::PicturePiece>> at_playhead(
      const std::shared_ptr<const std::vector<pour::PicturePiece>>&) const;
  mutable std::shared_ptr<const std::vector<pour::PicturePiece>> placed_;  // as they were shown last
  std::shared_ptr<const std::vector<pour::PicturePiece>> coloured(
      const std::shared_ptr<const std::vector<pour::PicturePiece>>&) const;
  mutable std::shared_ptr<const std::vector<pour::PicturePiece>> coloured_;  // as they were shown last
  std::shared_ptr<const std::vector<pour::PicturePiece>> pieces() const;
  /// Whether two runs are compared, and the position of the split as a share of the width.
  bool comparing() const;
  double split() const { return split_; }
  void set_split(double);
  void frame_selected();
  /// The handles of the selection; for tests.
  std::optional<Gizmo> handles() const { return gizmo(); }
  /// Screen position of a point of the set.
  QPointF to_screen(const pour::Vec3d&) const;
  /// The surface at a pixel, ignoring one piece.
  std::optional<pour::Seen> what_is_at(const QPointF&, const std::string& left_out = {}) const;

 protected:
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void orbit(double dx, double dy);
  void pan(double dx, double dy);
  void zoom(double factor);
  void refresh();
  /// The traced picture's input, if tracing is on and there is a frame.
  std::optional<Canvas::Traced> traced() const;
  void update_labels();
  void add_point_sizes(QMenu&);
  void add_guides(QMenu&);
  void paint_guides(QPainter&);
  void focus_at(const QPointF&);
  QRectF film_frame() const;
  void paint_split(QPainter&);
  void paint_legend(QPainter&);
  QRect legend_bar() const;
  QString legend_range(const Frames&) const;
  /// The legend of liquids by colour.
  std::vector<std::pair<QString, pour::Color>> legend_names(const Frames&) const;
  int legend_end() const;  // its lower end, pixels; 0: no legend
  bool at_split(const QPointF&) const;
  /// The id of the piece whose dot is at this point, or "".
  std::string dot_at(const QPointF&) const;
  void paint_guide(QPainter&, const pour::Piece&, const pour::Pose&);
  void paint_name(QPainter&, const pour::Piece&, QPointF at, std::vector<QRectF>& taken);
  std::optional<Gizmo> gizmo() const;
  /// The dragged pieces with their poses at the start.
  struct HeldPieces {
    struct One {
      std::string id;
      pour::Pose start;
      pour::Vec3d handle;
    };
    Gizmo gizmo;
    Gizmo::Part part;
    QPointF from;
    std::vector<One> start;
  };
  bool hold_pieces(const QPointF&, bool besides);
  void drag_pieces(const QPointF& to, Qt::KeyboardModifiers);
  pour::Vec3d settled(const HeldPieces::One&, const pour::Vec3d& move, const QPointF& pointer, bool snaps,
                      bool rests) const;
  double lowest_of(const std::string& piece, const pour::Pose&) const;
  void pick(const QPointF&, bool besides);
  bool is_click(const QPointF&) const;
  void remove_selected();
  void duplicate_selected();
  void paint_selected(QPainter&);
  void paint_normals(QPainter&);
  void open_menu(const std::string& piece, const std::optional<pour::Vec3d>& at, const QPoint& global);
  /// Where the dot of a piece is: the centre of a curve, otherwise its position.
  static pour::Vec3d dot_place(const pour::Piece&, const pour::Pose&);
  /// The handle of an item at a point of the stage.
  std::optional<Handle> handle_at(const QPointF&) const;
  /// Moves the held handle by `by` pixels in the plane of the picture, or with `onto` to what is seen at
  /// `to`.
  void drag_handle(const QPointF& to, const QPointF& by, bool onto);
  void paint_handles(QPainter&);
  void paint_arc(QPainter&, const Handle&, const QColor& of_tip);
  void paint_forces(QPainter&);
  void paint_reach(QPainter&, const pour::Force&);
  void paint_push(QPainter&, const std::vector<pour::Vec3d>& places, const std::vector<pour::Vec3d>& pushes);
  void paint_line_of(QPainter&, const pour::Piece&, const pour::Pose&);
  void paint_way(QPainter&, const std::string& piece);
  void find_ways();
  void paint_set(QPainter&);
  std::vector<pour::Staging::Seed> seeds_now() const;
  bool ways_known_ = false;
  std::string held_handle_;  // its id
  QPointF pointer_;
  std::map<std::string, std::vector<pour::Vec3d>> ways_;  // positions of moving pieces at each frame
  void paint_ball(QPainter&, const pour::Vec3d& center, double radius);
  void paint_box(QPainter&, const pour::Box&, const pour::Pose&);

  Document& document_;
  Runs& runs_;
  Frames &frames_, &before_;
  Analyst& analyst_;
  Canvas* canvas_ = nullptr;
  bool moving_ = false;
  QTimer rest_;
  QPointF last_, pressed_;
  std::optional<HeldPieces> held_;
  double split_ = 0.5;
  bool splitting_ = false;
  int drags_ = 0;
  QWidget* stages_ = nullptr;
  QPushButton* stage_buttons_[3] = {};
  QPushButton* follow_ = nullptr;
  QPushButton* keep_ = nullptr;
  QPushButton* back_ = nullptr;
  QPushButton* frame_ = nullptr;
  QPushButton* end_compare_ = nullptr;
  QPushButton* shows_ = nullptr;
  static constexpr double opened = 2.8;  // f-number
  std::set<std::string> guides_;         // visible guides
  QPushButton *focus_ = nullptr, *lines_ = nullptr, *as_solver_ = nullptr, *normals_ = nullptr;
  QPushButton* trace_ = nullptr;
  QLabel *left_ = nullptr, *right_ = nullptr;
};
