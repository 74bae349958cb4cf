// Handles that move, turn and size what is selected, over the stage: all at once, without modes.
//
// Arrows move along an axis, the arcs between them turn about the third one, the dot in the middle moves in
// the plane of the picture, the diamond sizes. As large on the screen wherever it stands.
#pragma once
#include <QPointF>
#include <QSize>

#include "picture/camera.h"

class QPainter;

class Gizmo {
 public:
  enum class Part { none, middle, move_x, move_y, move_z, turn_x, turn_y, turn_z, size };

  /// At a place in the set that the view shows on so many pixels.
  Gizmo(const pour::View&, const QSize&, const pour::Vec3d& at);

  Part part_at(const QPointF&) const;
  void paint(QPainter&, Part held) const;

  /// What a drag of a part from one point of the stage to another does to what stands there.
  struct Change {
    pour::Vec3d move, axis;  // m; of length 1
    double angle = 0, factor = 1;
  };
  Change drag(Part, const QPointF& from, const QPointF& to) const;

  /// Where a part is on the stage: the tip of an arrow, the middle of an arc.
  QPointF handle(Part) const;

 private:
  QPointF on_screen(const pour::Vec3d&) const;
  /// The points of the arc that turns about an axis.
  std::vector<pour::Vec3d> arc(int axis) const;
  /// Where the pointer is in the plane through the gizmo across an axis, as an angle about it.
  double angle_at(int axis, const QPointF&) const;

  pour::View view_;
  QSize size_;
  pour::Vec3d at_;
  double arm_ = 0;  // length of an arrow, m
};
