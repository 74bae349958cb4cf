#include "document.h"

#include <QStandardPaths>

#include "base/error.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/compare.h"
#include "shot/describe.h"
#include "shot/out_of_range.h"
#include "shot/shot_file.h"

using namespace pour;

namespace {
constexpr size_t unsaved = size_t(-1);
constexpr size_t longest_history = 400;
}  // namespace

Document::Document(QObject* parent) : QObject(parent), history_{{Shot{}, {}, {}}} {}

const Shot& Document::shot_now() const {
  if (!now_) now_ = shot_at(shot(), clock(), clock().time(frame_));
  return *now_;
}

const Clock& Document::clock() const {
  if (!clock_) clock_.emplace(shot());
  return *clock_;
}

bool Document::edit(const QString& what, const std::function<void(Shot&)>& change, const QString& merge) {
  Shot next = shot();
  try {
    change(next);
    keep_within_limits(next);
    refuse_circles(next);
  } catch (...) {
    const Fault f = fault_in_flight(what.toStdString());
    Q_EMIT problem(QString::fromStdString(f.problem + " " + f.mend));
    Q_EMIT changed();  // editors show again what holds
    return false;
  }
  if (next == shot()) return true;
  const bool joins =
      !merge.isEmpty() && history_[at_].merge == merge && at_ + 1 == history_.size() && at_ != saved_;
  const std::string moved = moved_in_film(joins && at_ > 0 ? history_[at_ - 1].shot : shot(), next);
  if (joins) {
    history_[at_].shot = std::move(next);
  } else {
    history_.resize(at_ + 1);
    if (saved_ != unsaved && saved_ > at_) saved_ = unsaved;
    history_.push_back({std::move(next), what, merge});
    ++at_;
    if (history_.size() > longest_history) {
      history_.erase(history_.begin());
      --at_;
      saved_ = saved_ == unsaved || saved_ == 0 ? unsaved : saved_ - 1;
    }
  }
  now_.reset(), clock_.reset();
  if (frame_ > shot().film.frames) set_frame(shot().film.frames);
  forget_gone();
  Q_EMIT changed();
  Q_EMIT file_changed();
  if (!moved.empty()) Q_EMIT noticed(QString::fromStdString(moved));
  return true;
}

bool Document::set(const QString& path, const QString& text, const QString& gesture) {
  QString name;
  try {
    name = QString::fromStdString(find_setting(shot(), path.toStdString()).name);
  } catch (const Fault&) {
    return false;  // the thing it belonged to is gone
  }
  return edit(
      name,
      [&](Shot& s) {
        const Setting about = find_setting(s, path.toStdString());
        const Value value = from_text(about, about.value, text.toStdString(), name.toStdString());
        change_value(s, path.toStdString(), value, frame_);
      },
      gesture.isEmpty() ? QString() : path + " " + gesture);
}

void Document::set_beside(const QString& path, const QString& text) {
  try {
    const QString name = QString::fromStdString(find_setting(shot(), path.toStdString()).name);
    edit_beside(name, [path, text, name](Shot& s) {
      set_text(s, path.toStdString(), text.toStdString(), name.toStdString());
    });
  } catch (const Fault&) {  // the thing it belonged to is gone
  }
}

/// Removed pieces are deselected.
void Document::forget_gone() {
  const size_t before = selected_.size();
  std::erase_if(selected_, [&](const std::string& id) { return !shot().piece(id); });
  if (selected_.size() != before) Q_EMIT selection_changed();
}

void Document::go_to(size_t at) {
  at_ = at;
  now_.reset(), clock_.reset();
  if (frame_ > shot().film.frames) set_frame(shot().film.frames);
  forget_gone();
  Q_EMIT changed();
  Q_EMIT file_changed();
}
void Document::undo() {
  if (can_undo()) go_to(at_ - 1);
}
void Document::redo() {
  if (can_redo()) go_to(at_ + 1);
}

void Document::start(const Shot& shot, const QString& file) {
  history_ = {{shot, {}, {}}};
  at_ = saved_ = 0;  // a recipe that nothing was changed in is nothing to lose
  file_ = file;
  own_view_.reset();
  selected_.clear();
  now_.reset(), clock_.reset();
  frame_ = 1, step_ = 2, pinned_ = false;
  follow();
  Q_EMIT replaced();
  Q_EMIT changed();
  Q_EMIT file_changed();
  Q_EMIT frame_changed();
  Q_EMIT step_changed();
  Q_EMIT view_changed();
}

QString Document::own_folder() {
  return QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + "/Easy Pour";
}

void Document::open(const QString& file) { start(load_shot(file.toStdString()), file); }

void Document::save(const QString& file) {
  save_shot(shot(), file.toStdString());
  file_ = file;
  saved_ = at_;
  Q_EMIT file_changed();
}

void Document::set_frame(int frame) {
  frame = std::clamp(frame, 1, shot().film.frames);
  if (frame == frame_) return;
  frame_ = frame;
  now_.reset();
  Q_EMIT frame_changed();
}

void Document::set_playing(bool on) {
  if (on == playing_) return;
  playing_ = on;
  Q_EMIT playing_changed();
}

void Document::open_step(int step) {
  if (step == step_) return;
  step_ = step;
  follow();
  Q_EMIT step_changed();
}

void Document::follow() {
  if (pinned_ || step_ == 0) return;
  const Stage wanted = step_ == 1 ? Stage::set : step_ >= 6 ? Stage::picture : Stage::fluid;
  if (wanted == stage_) return;
  stage_ = wanted;
  Q_EMIT stage_changed();
}

void Document::show_quantity(Quantity quantity) {
  shown_.quantity = quantity;
  Q_EMIT stage_changed();
}

void Document::show_points(double size) {
  shown_.point_size = size;
  Q_EMIT stage_changed();
}

void Document::show_stage(Stage stage) {
  stage_ = stage, pinned_ = true;
  Q_EMIT stage_changed();
}

void Document::set_traced(bool traced) {
  if (traced_ == traced) return;
  traced_ = traced;
  Q_EMIT stage_changed();
}

void Document::set_solver_view(bool on) {
  if (solver_view_ == on) return;
  solver_view_ = on;
  Q_EMIT stage_changed();
}

void Document::unpin() {
  pinned_ = false;
  follow();
  Q_EMIT stage_changed();
}

void Document::watch_run() {
  if (pinned_ || stage_ != Stage::set) return;
  stage_ = Stage::fluid;
  Q_EMIT stage_changed();
}

bool Document::is_selected(const std::string& piece) const {
  return std::find(selected_.begin(), selected_.end(), piece) != selected_.end();
}

void Document::select(const std::string& piece, bool besides) {
  const auto before = selected_;
  const bool was = is_selected(piece);
  if (besides)
    std::erase(selected_, piece);
  else
    selected_.clear();
  if (!piece.empty() && !(besides && was)) selected_.push_back(piece);
  if (selected_ != before) Q_EMIT selection_changed();
}

void Document::look_from(const Camera& camera) {
  own_view_ = camera;
  Q_EMIT view_changed();
}
void Document::back_to_shot_camera() {
  own_view_.reset();
  Q_EMIT view_changed();
}
void Document::keep_view() {
  if (!own_view_) return;
  const Camera camera = *own_view_;
  own_view_.reset();
  edit(tr("Shot camera"), [&](Shot& s) {
    for (const Row<Camera>& row : table<Camera>())
      change_value(s, std::string("camera.") + row.key, kept_within(row, row.get(camera)), frame_);
  });
  Q_EMIT view_changed();
}
