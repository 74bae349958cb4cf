// The time strip: transport, ruler, the run's frames, and a bar for each pour window.
#pragma once
#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>
#include <string>

#include "document.h"

class Frames;
class QLabel;
class QPushButton;
class Runs;

class TimeStrip : public QWidget {
  Q_OBJECT

 public:
  TimeStrip(Document&, Runs&, Frames&, QWidget* parent = nullptr);
  bool playing() const { return timer_.isActive(); }
  void play(bool on);
  /// Pixels from the left edge for a frame; for drawing and for tests.
  double x_of(double frame) const;
  /// Top of a pour's lane.
  int lane_y(int lane) const;
  QSize sizeHint() const override { return {800, 152}; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void wheelEvent(QWheelEvent*) override;

 private:
  enum class Grip { none, playhead, first, last, whole };
  struct Hit {
    Grip grip = Grip::none;
    std::string pour;  // id of the one whose window it is
    size_t window = 0;
  };
  Hit hit(const QPointF&) const;
  double frame_at(double x) const;
  void tick();
  void follow(int frame);
  void update_labels();
  int lanes_shown() const;

  Document& document_;
  Runs& runs_;
  Frames& frames_;
  QPushButton *play_ = nullptr, *first_ = nullptr, *last_ = nullptr, *loop_ = nullptr;
  QLabel* counter_ = nullptr;
  QTimer timer_;
  QElapsedTimer clock_;
  double started_at_ = 1;
  Hit held_;
  double grab_ = 0;
  pour::FrameRange grabbed_;
  int drags_ = 0, scroll_ = 0;
  int newest_ = 0;  // where the playhead stands as long as it goes along with a run; 0: it does not
};
