// The time strip: transport, ruler, frames of the run, pour windows as bars, and a curve for each animated
// setting.
#pragma once
#include <optional>
#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>
#include <set>
#include <string>
#include <utility>

#include "document.h"
#include "time/lanes.h"

class Frames;
class QLabel;
class QMenu;
class QPushButton;
class Runs;
class Skins;

class TimeStrip : public QWidget {
  Q_OBJECT

 public:
  TimeStrip(Document&, Runs&, Frames&, Skins&, QWidget* parent = nullptr);
  bool playing() const { return timer_.isActive(); }
  void play(bool on);
  /// Horizontal position of a frame, pixels.
  double x_of(double frame) const { return scale().x_of(frame); }
  /// The current lanes.
  std::vector<Lane> lanes() const;
  /// A selected key: path and time, s.
  struct SelectedKey {
    std::string path;
    double time;
    bool operator<(const SelectedKey& o) const { return path != o.path ? path < o.path : time < o.time; }
  };
  const std::set<SelectedKey>& selected() const { return selected_; }
  QSize sizeHint() const override { return {800, height()}; }

 protected:
  bool event(QEvent*) override;
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void wheelEvent(QWheelEvent*) override;

 private:
  enum class Grip { none, playhead, first, last, whole, key, handle_out, handle_in, select, stretch, height };
  struct Hit {
    Grip grip = Grip::none;
    std::string path;   // path of the lane
    size_t window = 0;  // of a pour
    double time = 0;    // of a key, s
    double end = 0;     // the dragged end of the selection, film frame
  };
  Hit hit(const QPointF&) const;
  const Lane* lane_at(const std::vector<Lane>&, const QPointF&) const;
  TimeScale scale() const;
  /// The film frame at a shot time, s.
  double film_frame(double time) const { return document_.clock().film_frame(time); }
  /// Rectangle of a window, from its first to its last frame.
  std::pair<double, double> ends_of(const pour::Span&) const;
  void tick();
  void follow(int frame);
  void update_labels();
  void set_view(double first, double last);

  void paint_run(QPainter&, const Lane&);
  void paint_pour(QPainter&, const Lane&);
  void paint_track(QPainter&, const Lane&);
  void paint_ruler(QPainter&);
  void paint_span(QPainter&);
  void paint_playhead(QPainter&);

  void drag_window(double frame);
  void drag_keys(const QPointF&);
  void drag_handle(const QPointF&);
  /// Film frames of the first and last selected key; nothing if equal.
  std::optional<std::pair<double, double>> span_of(const pour::Shot&, const std::set<SelectedKey>&) const;
  /// Stretches the selection: moves the held end to a frame, the other stays.
  void stretch_keys(double frame);
  void select_in(const QRectF&);
  void add_key(const Lane&, double frame);
  void remove_selected();
  void nudge_selected(double frames);
  void copy_selected();
  void paste();
  void edit_key(const SelectedKey&, const QPoint& at);
  void edit_wobble(const std::string& path, const QPoint& at);
  void edit_tracks(const QString& what, const std::function<void(pour::Track&, const std::string& path)>&,
                   const QString& merge = {});
  void fill_key_menu(QMenu&, const Hit&);
  void fill_track_menu(QMenu&, const std::string& path);
  void fill_pour_menu(QMenu&, const Hit&, double frame);

  Document& document_;
  Runs& runs_;
  Frames& frames_;
  Skins& skins_;
  QPushButton *play_ = nullptr, *first_ = nullptr, *last_ = nullptr, *loop_ = nullptr;
  QLabel* counter_ = nullptr;
  QTimer timer_;
  QElapsedTimer clock_;
  double started_at_ = 1;
  Hit held_;
  QPointF pressed_, at_;
  double grab_ = 0;
  pour::Span grabbed_;
  pour::Shot before_;  // at the start of the drag
  std::set<SelectedKey> selected_, selected_before_;
  std::vector<std::pair<std::string, pour::Key>> copied_;
  std::map<std::string, bool> tall_;
  bool moved_ = false;
  int drags_ = 0, scroll_ = 0;
  double view_first_ = 0, view_last_ = 0;  // visible frames; 0: all
  int newest_ = 0;                         // frame of the playhead while it follows a run; 0: not following
};
