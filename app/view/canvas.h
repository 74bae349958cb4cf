// The canvas of the stage. Pictures are rendered on a separate thread, on the graphics card or else the
// processor; the window never waits. Resolution drops during motion and is restored at rest.
#pragma once
#include <atomic>
#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <QImage>
#include <QOffscreenSurface>
#include <QWidget>
#include <thread>

#include "picture/quick_picture.h"
#include "trace/path_tracer.h"

class Canvas : public QWidget {
  Q_OBJECT

 public:
  /// `overlay` draws over the picture.
  Canvas(std::function<void(QPainter&)> overlay, QWidget* parent);
  ~Canvas() override;

  /// Input of a traced picture: a frame of a run, and the shot with its look and camera.
  struct Traced {
    pour::StoredFrame frame;
    std::string run;  // with its time of creation
    std::shared_ptr<const pour::SmokeWalls> walls;
    pour::Shot shot;
    int number = 1;  // frame number
    int samples = 64;
    bool operator==(const Traced& o) const {
      return frame.file == o.frame.file && run == o.run && shot == o.shot && samples == o.samples;
    }
    /// Whether only the camera differs.
    bool same_set(const Traced& o) const {
      Traced as = o;
      as.shot.camera = shot.camera, as.samples = samples;
      return *this == as;
    }
  };
  struct Scene {
    std::shared_ptr<const pour::LitFrame> smoke;  // null: none
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces;
    // Left of the split, if two runs are compared.
    bool compares = false;
    std::shared_ptr<const pour::LitFrame> smoke_before;
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces_before;
    pour::Look look;
    pour::Camera camera;
    bool moving = false;           // another picture will follow soon
    std::optional<Traced> traced;  // replaces the quick picture once available
    bool operator==(const Scene&) const = default;
  };
  void show_scene(const Scene&);
  /// Position of the split as a share of the width.
  void set_split(double);
  /// Why the processor renders; empty if the graphics card does.
  QString missing_gl() const { return missing_gl_; }
  bool has_gl() const { return missing_gl_.isEmpty(); }
  QImage image() const { return image_; }
  QImage image_before() const { return before_; }
  /// Whether the picture shows the last scene at full resolution.
  bool sharp() const { return shown_ == newest_ && sharp_; }
  /// Paths a pixel of the visible traced picture; 0: a quick picture.
  int traced() const { return traced_; }

 Q_SIGNALS:
  void drawn();
  void gl_is_missing();
  void failed(const QString& text);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  struct Request {
    Scene scene;
    QSize size;  // in device pixels
    int number = 0;
  };
  void ask();
  void work();
  void trace(const Request&);
  const pour::TracedSet& set_of(const Traced&);

  std::function<void(QPainter&)> overlay_;
  Scene scene_;
  QImage image_, before_;
  double split_ = 0.5;
  QString missing_gl_;
  int shown_ = 0;
  bool sharp_ = false;
  int traced_ = 0;
  QOffscreenSurface surface_;

  std::atomic<int> newest_{0}, newest_moving_{0};  // request numbers
  std::mutex mutex_;
  std::condition_variable wake_;
  std::optional<Request> pending_;
  std::atomic<bool> quit_{false};
  std::thread thread_;
  // Used on the render thread: the last traced set.
  std::optional<std::pair<Traced, pour::TracedSet>> last_set_;
};
