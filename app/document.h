// The hub: holds the shot, its history and what is being looked at. Widgets read it and send it edits;
// they never talk to each other.
#pragma once
#include <functional>
#include <optional>
#include <QObject>
#include <QString>

#include "picture/quantity.h"
#include "shot/clock.h"

/// What the viewport shows.
enum class Stage { set, fluid, picture };

class Document : public QObject {
  Q_OBJECT

 public:
  explicit Document(QObject* parent = nullptr);

  const pour::Shot& shot() const { return history_[at_].shot; }
  /// The same as it is at the playhead: what moves is where it is then.
  const pour::Shot& shot_now() const;
  const pour::Clock& clock() const;
  const QString& file() const { return file_; }  // empty until it is saved or opened
  bool modified() const { return saved_ != at_; }

  /// Changes the shot; one step of undo called `what`. Edits with the same non-empty `merge` key that
  /// follow each other become one step. Faults in `change` leave the shot as it was and go to problem().
  bool edit(const QString& what, const std::function<void(pour::Shot&)>& change, const QString& merge = {});
  /// Sets a described setting from text, as typed. Changes of one gesture (a drag) are one step of undo.
  bool set(const QString& path, const QString& text, const QString& gesture = {});

  /// The same where that may take long, as reading a file does: somebody else does it beside the window.
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

  /// Where shots go that were given no place.
  static QString own_folder();
  void open(const QString& file);  // throws pour::Fault
  void start(const pour::Shot&, const QString& file = {});
  void save(const QString& file);  // throws pour::Fault

  int frame() const { return frame_; }
  void set_frame(int frame);
  bool playing() const { return playing_; }
  void set_playing(bool);
  int step() const { return step_; }  // open step of the recipe, 1 to 7; 0 for none
  void open_step(int step);
  /// Opens the step in which an item is and shows its card: “materials.glaze”.
  void show_item(const QString& path) { Q_EMIT item_wanted(path); }
  Stage stage() const { return stage_; }
  bool pinned() const { return pinned_; }
  void show_stage(Stage);  // pins it
  /// What the smoke is coloured by where the fluid is shown.
  pour::Quantity quantity() const { return shown().quantity; }
  void show_quantity(pour::Quantity);
  /// The same, and how liquid is drawn there.
  pour::Showing shown() const { return stage_ == Stage::fluid ? shown_ : pour::Showing(); }
  void show_points(double size);  // radius in cells; 0: the skin
  /// Whether the picture on the stage is traced, as far as that has come.
  bool traced() const { return traced_; }
  void set_traced(bool);
  /// Whether the set is shown as the solver sees it.
  bool solver_view() const { return solver_view_; }
  void set_solver_view(bool);
  void unpin();
  /// Shows the smoke where the set is shown, unless that was pinned: a run begins.
  void watch_run();

  /// The pieces that are selected, by their ids; the last one was selected last.
  const std::vector<std::string>& selected() const { return selected_; }
  bool is_selected(const std::string& piece) const;
  /// Alone, or `besides` those that are selected already, from which it goes where it is one of them; an
  /// empty id selects nothing.
  void select(const std::string& piece, bool besides = false);

  /// A view other than the shot camera, while the artist looks around.
  const std::optional<pour::Camera>& own_view() const { return own_view_; }
  const pour::Camera& camera() const { return own_view_ ? *own_view_ : shot_now().camera; }
  void look_from(const pour::Camera&);
  void back_to_shot_camera();
  void keep_view();  // makes it the shot camera

 Q_SIGNALS:
  void changed();       // the shot
  void file_changed();  // its name, or whether it is saved
  void replaced();      // another shot altogether
  void frame_changed();
  void playing_changed();
  void step_changed();
  void item_wanted(const QString& path);
  void stage_changed();
  void view_changed();
  void selection_changed();
  void problem(const QString& text);
  void noticed(const QString& text);  // what else a change did
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
  mutable std::optional<pour::Shot> now_;  // as of the playhead; made when asked for
  mutable std::optional<pour::Clock> clock_;
};
