// Places on the stage that can be dragged. Each kind of item brings its own; the stage shows, holds and drags
// them without knowing what they set.
#pragma once
#include <functional>
#include <optional>
#include <QColor>
#include <QString>
#include <string>
#include <vector>

#include "document.h"
#include "run/arc.h"

class QMenu;

inline constexpr int arc_steps = 4;

struct Handle {
  struct Drag {
    pour::Vec3d to;                   // where the handle goes, in the plane of the picture, m
    std::optional<pour::Vec3d> onto;  // the surface under the pointer, while Control is held, m
  };
  std::string id;     // the same for as long as it is dragged
  pour::Vec3d at;     // in the set, m
  QString edit;       // what a drag is called in the history
  double reach = 11;  // pixels from its middle
  double size = 0;    // of its square, pixels
  QColor color;
  /// The path of what is poured, in steps of a frame / arc_steps. With it goes an arrow instead of a square.
  pour::Arc arc = {};
  std::function<void(pour::Shot&, const Drag&)> set;  // what a drag changes
  std::function<void(QMenu&)> fill;                   // its menu; none: no menu
};

/// All handles that the stage shows now. The first of those at a place is the one that is held.
std::vector<Handle> handles_of(Document&);

/// The points of a piece that is defined by points; null otherwise.
const pour::Points* points_of(const pour::Piece&);
