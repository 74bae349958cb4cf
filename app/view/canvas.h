// The drawn part of the stage. Pictures are made on a thread of their own, by the graphics card or, where
// there is none, by the processor; the window never waits for them. While things move, pictures are as coarse
// as is needed to keep up; at rest they become sharp.
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
  /// `overlay` draws what lies over the picture.
  Canvas(std::function<void(QPainter&)> overlay, QWidget* parent);
  ~Canvas() override;

  /// What a traced picture is made from: a frame of a run, and the shot with the look and camera for it.
  struct Traced {
    pour::StoredFrame frame;
    std::string run;  // and when it was made
    std::shared_ptr<const pour::SmokeWalls> walls;
    pour::Shot shot;
    int number = 1;  // of the frame
    int samples = 64;
    bool operator==(const Traced& o) const {
      return frame.file == o.frame.file && run == o.run && shot == o.shot && samples == o.samples;
    }
    /// Whether nothing but the camera is another one.
    bool same_set(const Traced& o) const {
      Traced as = o;
      as.shot.camera = shot.camera, as.samples = samples;
      return *this == as;
    }
  };
  struct Scene {
    std::shared_ptr<const pour::LitFrame> smoke;  // null: none
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces;
    // What is shown on the left of the split, where two runs are compared.
    bool compares = false;
    std::shared_ptr<const pour::LitFrame> smoke_before;
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces_before;
    pour::Look look;
    pour::Camera camera;
    bool moving = false;           // soon there will be another one
    std::optional<Traced> traced;  // over the quick picture, as soon as there is some of it
    bool operator==(const Scene&) const = default;
  };
  void show_scene(const Scene&);
  /// Where the two sides of a comparison meet, as a part of the width.
  void set_split(double);
  /// Why the processor draws; empty where the graphics card does.
  QString missing_gl() const { return missing_gl_; }
  bool has_gl() const { return missing_gl_.isEmpty(); }
  QImage image() const { return image_; }
  QImage image_before() const { return before_; }
  /// Whether the picture is that of the last scene, at full size.
  bool sharp() const { return shown_ == newest_ && sharp_; }
  /// Paths a pixel of the traced picture that is seen; 0: it is a quick one.
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
    QSize size;  // in pixels of the screen
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

  std::atomic<int> newest_{0}, newest_moving_{0};  // numbers of requests
  std::mutex mutex_;
  std::condition_variable wake_;
  std::optional<Request> pending_;
  std::atomic<bool> quit_{false};
  std::thread thread_;
  // Of that thread: the last set that was traced.
  std::optional<std::pair<Traced, pour::TracedSet>> last_set_;
};
