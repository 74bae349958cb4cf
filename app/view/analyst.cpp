#include "view/analyst.h"

#include <QFileInfo>
#include <QtConcurrent>

#include "background.h"
#include "base/error.h"
#include "base/text.h"
#include "base/units.h"
#include "check/file_checks.h"
#include "picture/coarser.h"
#include "picture/quantity.h"
#include "runs.h"
#include "shape/pose.h"
#include "shape/solver_view.h"
#include "shape/thicken.h"
#include "shot/animate.h"
#include "shot/compare.h"

using namespace pour;

Analyst::Analyst(Document& document, Runs& runs, QObject* parent)
    : QObject(parent), document_(document), runs_(runs) {
  timer_.setSingleShot(true);
  timer_.setInterval(200);
  connect(&timer_, &QTimer::timeout, this, &Analyst::look);
  connect(&document_, &Document::changed, this, [this] { timer_.start(); });
  connect(&runs_, &Runs::changed, this, [this] { timer_.start(); });
  connect(&document_, &Document::stage_changed, this, [this] {
    if (document_.solver_view() && !analysis_.solver_pieces) timer_.start();
  });
  connect(&watcher_, &QFutureWatcher<Analysis>::resultReadyAt, this, [this](int i) {
    if (again_) return;  // it is of the past
    analysis_ = watcher_.resultAt(i), seen_ = looked_at_;
    Q_EMIT changed();
  });
  connect(&watcher_, &QFutureWatcher<Analysis>::finished, this, [this] {
    watch_files();
    if (again_) again_ = false, timer_.start();
  });
  connect(&files_, &QFileSystemWatcher::fileChanged, this, [this] { timer_.start(); });
}

/// A replaced file is no longer watched unless added again.
void Analyst::watch_files() {
  QStringList wanted;
  for (const std::string& file : files_of(document_.shot()))
    if (const QString name = QString::fromStdString(file); QFileInfo::exists(name)) wanted << name;
  for (const QString& file : files_.files())
    if (!wanted.contains(file)) files_.removePath(file);
  for (const QString& file : wanted)
    if (!files_.files().contains(file)) files_.addPath(file);
}

Analyst::~Analyst() {
  *given_up_ = true;
  watcher_.waitForFinished();
}

namespace {

/// Level sets of what blocks, holds or drains, in the space of each piece.
void add_solver_pieces(Analysis& a, const Shot& shot, const Space& space, const StopAsked& stop) {
  auto pieces = std::make_shared<std::vector<PicturePiece>>();
  const Shot first = shot_at(shot, 1);
  for (size_t i = 0; i < shot.pieces.size(); ++i) {
    const Piece& piece = shot.pieces[i];
    if (!piece.blocks && !piece.holds && !piece.drains) continue;
    double furthest = 0, thinnest = 1e300, keeping = 1e300;
    for (const Body& body : space.bodies[i]) {
      SolverView seen =
          solver_view(as_wall(body, piece.thickens && !piece.holds, space.cell_size), space.cell_size, stop);
      furthest = std::max(furthest, seen.furthest), thinnest = std::min(thinnest, seen.thinnest),
      keeping = std::min(keeping, seen.keeping_cell());
      std::vector<Vec3f> colors;
      for (const float off : seen.off) {
        const Color c = ramp(double(off) / space.cell_size);
        colors.push_back({float(c.r), float(c.g), float(c.b)});
      }
      seen.surface.place(pose_of(first, first.pieces[i]).inverse());
      pieces->emplace_back(std::make_shared<const Surface>(std::move(seen.surface), std::move(colors)),
                           pose_of(first, first.pieces[i]), Finish::plain, piece.id);
    }
    const std::string off = format_quantity(furthest, Unit::length, 2);
    a.solver_words.push_back(
        thinnest < 2 * space.cell_size
            ? filled("{piece}: at most {off} off; cells of {cell} keep its thinnest wall of {wall}",
                     {{"piece", piece.name},
                      {"off", off},
                      {"cell", format_quantity(floor_kindly(keeping), Unit::length)},
                      {"wall", format_quantity(thinnest, Unit::length, 2)}})
            : filled("{piece}: at most {off} off", {{"piece", piece.name}, {"off", off}}));
  }
  a.solver_pieces = pieces;
}

/// What a stage draws of pieces that stand still.
std::shared_ptr<const std::vector<PicturePiece>> drawn(
    const std::shared_ptr<const std::vector<PicturePiece>>& pieces, Coarser how) {
  const auto fewer = coarser(*pieces, still_triangles, how);
  return fewer ? fewer : pieces;
}

/// The shapes of a shot for the stage: at once, or as they look best.
void take_shapes(Analysis& a, const std::vector<PicturePiece>& pieces, Coarser how) {
  std::vector<PicturePiece> solid = pieces;
  for (PicturePiece& p : solid)
    if (p.glass()) p.finish = Finish::solid;
  a.pieces = drawn(std::make_shared<const std::vector<PicturePiece>>(pieces), how);
  a.solid_pieces = std::make_shared<const std::vector<PicturePiece>>(std::move(solid));
  a.drawn_pieces = drawn(a.solid_pieces, how);
  a.coarse_pieces = how == Coarser::well ? coarser(*a.solid_pieces, moving_triangles) : nullptr;
}

/// What is looked at, and how.
struct Asked {
  Shot shot;
  std::string folder;
  Pace pace;
  Analysis old;
  bool shapes_stay, as_solver;
};

/// The shapes: first, where they are new, roughly and with all else as it was, since large models take long.
void find_shapes(Analysis& a, const Asked& asked, QPromise<Analysis>& promise) {
  if (asked.shapes_stay) {
    const Analysis& old = asked.old;
    a.pieces = old.pieces, a.solid_pieces = old.solid_pieces, a.drawn_pieces = old.drawn_pieces,
    a.coarse_pieces = old.coarse_pieces;
    return;
  }
  const std::vector<PicturePiece> pieces = picture_pieces(shot_at(asked.shot, 1));
  Analysis soon = asked.old;
  take_shapes(soon, pieces, Coarser::quickly);
  soon.whole = false;
  promise.addResult(std::move(soon));
  take_shapes(a, pieces, Coarser::well);
}

/// What follows from them.
void look_closer(Analysis& a, const Asked& asked, const StopAsked& stop) {
  constexpr size_t normals = 300;  // of a piece
  const Shot& shot = asked.shot;
  const Space space(shot, stop);
  a.framed = framed(shot, space);
  if (asked.as_solver && asked.shapes_stay && asked.old.solver_pieces)
    a.solver_pieces = asked.old.solver_pieces, a.solver_words = asked.old.solver_words;
  else if (asked.as_solver)
    add_solver_pieces(a, shot, space, stop);
  const Staging staging(shot, space, Staging::For::looking, stop);
  a.bounds = staging.bounds(), a.cell_size = staging.cell_size(), a.estimate = staging.estimate(asked.pace);
  a.seeds = staging.seeds();
  if (asked.shapes_stay) a.normals = asked.old.normals;
  for (const Piece& p : shot.pieces) {
    if (!asked.shapes_stay) a.normals[p.id] = normals_of(*bodies_of(p.shape, stop), normals);
    if (p.shows && !p.tracks.contains("shows")) continue;
    auto& outline = a.guides[p.id];
    for (const Body& body : *bodies_of(p.shape, stop))
      for (const OutlineEdge& e : outline_of(body.mesh)) outline.push_back(e);
  }
}

/// All of it, in two steps where shapes are new; nothing more once it was given up.
void analyse(const Asked& asked, const StopAsked& stop, QPromise<Analysis>& promise) {
  Analysis a;
  a.whole = true;
  try {
    find_shapes(a, asked, promise);
    look_closer(a, asked, stop);
    a.ok = true;
  } catch (const GivenUp&) {
    return;
  } catch (...) {  // the checks below say what it is
  }
  try {
    a.checks = check_shot(asked.shot, asked.folder, stop);
  } catch (const GivenUp&) {
    return;
  } catch (...) {
    const Fault f = fault_in_flight("Checks");
    a.ok = false;
    a.checks = {{CheckLevel::fault, f.where, f.problem + " " + f.mend, {}, {}}};
  }
  promise.addResult(std::move(a));
}

}  // namespace

void Analyst::look() {
  if (watcher_.isRunning()) {  // what it looks at is the past
    *given_up_ = true;
    again_ = true;
    return;
  }
  *given_up_ = false;
  const QString folder =
      QFileInfo(document_.file().isEmpty() ? QStringLiteral(".") : document_.file()).absolutePath();
  // Looks and cameras change neither shapes nor the estimate.
  const bool shapes_stay = analysis_.ok && analysis_.whole && same_simulation(document_.shot(), seen_);
  const Asked asked{document_.shot(), folder.toStdString(), runs_.pace(),
                    analysis_,        shapes_stay,          document_.solver_view()};
  watcher_.setFuture(QtConcurrent::run(&beside(), [asked, given_up = given_up_](QPromise<Analysis>& promise) {
    step_back();
    analyse(
        asked, [given_up] { return given_up->load(); }, promise);
  }));
  looked_at_ = document_.shot();
}
