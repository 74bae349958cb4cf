// The document: shot, undo history and view state. Widgets read it and send it edits; they never talk to each
// other.
#pragma once
#include <functional>
#include <optional>
#include <QObject>
#include <QString>

#include "picture/quantity.h"
#include "shot/clock.h"

/// The view of the stage.
enum class Stage { set, fluid, picture };

class Document : public QObject {
  Q_OBJECT

 public:
  explicit Document(QObject* parent = nullptr);

  const pour::Shot& shot() const { return history_[at_].shot; }
  /// The shot at the playhead, without tracks.
  const pour::Shot& shot_now() const;
  const pour::Clock& clock() const;
  const QString& file() const { return file_; }  // empty until saved or opened
  bool modified() const { return saved_ != at_; }

  /// Changes the shot as one undo step named `what`. Consecutive edits with the same non-empty `merge` key
  /// become one step. If `change` throws a Fault, the shot is unchanged and problem() is emitted.
  bool edit(const QString& what, const std::function<void(pour::Shot&)>& change, const QString& merge = {});
  /// Sets a setting from typed text. Changes of one gesture, such as a drag, are one undo step.
  bool set(const QString& path, const QString& text, const QString& gesture = {});

  /// Requests a change that may take long, such as reading a file; it is done in the background.
  void edit_beside(const QString& what, const std::function<void(pour::Shot&)>& change) {
    Q_EMIT slow_edit(what, change);
  }
  void set_beside(const QString& path, const QString& text);

  bool can_undo() const { return at_ > 0; }
  bool can_redo() const { return at_ + 1 < history_.size(); }
  QString undo_name() const { return can_undo() ? history_[at_].what : QString(); }
  QString redo_name() const { return can_redo() ? history_[at_ + 1].what : QString(); }
  void undo();
  void redo();

  /// Default folder of shots.
  static QString own_folder();
  void open(const QString& file);  // throws pour::Fault
  void start(const pour::Shot&, const QString& file = {});
  void save(const QString& file);  // throws pour::Fault

  int frame() const { return frame_; }
  void set_frame(int frame);
  bool playing() const { return playing_; }
  void set_playing(bool);
  int step() const { return step_; }  // open step of the recipe, 1 to 7; 0: none
  void open_step(int step);
  /// Opens the step of an item, “materials.glaze”, and shows its card.
  void show_item(const QString& path) { Q_EMIT item_wanted(path); }
  Stage stage() const { return stage_; }
  bool pinned() const { return pinned_; }
  void show_stage(Stage);  // and keeps it
  /// The quantity of false colours.
  pour::Quantity quantity() const { return shown().quantity; }
  void show_quantity(pour::Quantity);
  /// Quantity, and how liquid is drawn.
  pour::Showing shown() const { return stage_ == Stage::fluid ? shown_ : pour::Showing(); }
  void show_points(double size);  // radius in cells; 0: skin
  /// Whether the stage traces its picture.
  bool traced() const { return traced_; }
  void set_traced(bool);
  /// Whether the stage shows the set as the solver sees it.
  bool solver_view() const { return solver_view_; }
  void set_solver_view(bool);
  void unpin();
  /// When a run starts: switches from set to smoke, unless the view was chosen by hand.
  void watch_run();

  /// Ids of the selected pieces, in order of selection.
  const std::vector<std::string>& selected() const { return selected_; }
  bool is_selected(const std::string& piece) const;
  /// Selects a piece alone, or with `besides` toggles it in the selection; an empty id clears the selection.
  void select(const std::string& piece, bool besides = false);

  /// A view other than the shot camera, while looking around.
  const std::optional<pour::Camera>& own_view() const { return own_view_; }
  const pour::Camera& camera() const { return own_view_ ? *own_view_ : shot_now().camera; }
  void look_from(const pour::Camera&);
  void back_to_shot_camera();
  void keep_view();  // makes the view the shot camera

 Q_SIGNALS:
  void changed();       // the shot
  void file_changed();  // name or saved state
  void replaced();      // another shot was loaded
  void frame_changed();
  void playing_changed();
  void step_changed();
  void item_wanted(const QString& path);
  void stage_changed();
  void view_changed();
  void selection_changed();
  void problem(const QString& text);
  void noticed(const QString& text);  // side effects of a change
  void slow_edit(const QString& what, const std::function<void(pour::Shot&)>& change);

 private:
  struct State {
    pour::Shot shot;
    QString what, merge;
  };
  void go_to(size_t at);
  void follow();
  void forget_gone();

  std::vector<State> history_;
  size_t at_ = 0;
  size_t saved_ = 0;
  QString file_;
  int frame_ = 1, step_ = 2;
  Stage stage_ = Stage::fluid;
  pour::Showing shown_;
  bool pinned_ = false, playing_ = false, traced_ = false, solver_view_ = false;
  std::optional<pour::Camera> own_view_;
  std::vector<std::string> selected_;
  mutable std::optional<pour::Shot> now_;  // shot at the playhead; made on demand
  mutable std::optional<pour::Clock> clock_;
};
