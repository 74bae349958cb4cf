// Handles on the stage that move, turn and scale the selection, without modes.
//
// Arrows move along an axis, arcs between them turn about the third axis, the centre dot moves in the picture
// plane, and the diamond scales. Its size on screen is constant.
#pragma once
#include <QPointF>
#include <QSize>

#include "picture/camera.h"

class QPainter;

class Gizmo {
 public:
  enum class Part { none, middle, move_x, move_y, move_z, turn_x, turn_y, turn_z, size };

  /// A gizmo at a point of the set, for a view of this size in pixels.
  Gizmo(const pour::View&, const QSize&, const pour::Vec3d& at);

  Part part_at(const QPointF&) const;
  void paint(QPainter&, Part held) const;

  /// The change caused by dragging a part between two points of the stage.
  struct Change {
    pour::Vec3d move, axis;  // m; unit vector
    double angle = 0, factor = 1;
  };
  Change drag(Part, const QPointF& from, const QPointF& to) const;

  /// Screen position of a part: the tip of an arrow, the middle of an arc.
  QPointF handle(Part) const;

 private:
  QPointF on_screen(const pour::Vec3d&) const;
  /// Screen points of the arc about an axis.
  std::vector<pour::Vec3d> arc(int axis) const;
  /// Angle of the pointer about an axis, in the plane through the gizmo.
  double angle_at(int axis, const QPointF&) const;

  pour::View view_;
  QSize size_;
  pour::Vec3d at_;
  double arm_ = 0;  // arrow length, m
};
