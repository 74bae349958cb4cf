#include "view/canvas.h"

#include <cmath>
#include <QElapsedTimer>
#include <QOpenGLContext>
#include <QPainter>
#include <utility>

#include "background.h"
#include "base/error.h"
#include "trace/traced_set.h"
#include "view/stage_gl.h"

using namespace pour;

namespace {

using KeepGoing = std::function<bool()>;

/// One way to make pictures.
class Artist {
 public:
  virtual ~Artist() = default;
  /// A picture of `scale` times the size, or none where `keep_going` says no.
  virtual QImage draw(const Canvas::Scene&, const QSize&, double scale, const KeepGoing& keep_going) = 0;
};

class Processor : public Artist {
 public:
  QImage draw(const Canvas::Scene& s, const QSize& size, double scale, const KeepGoing& keep_going) override {
    static const LitFrame none;
    static const std::vector<PicturePiece> empty;
    const int w = std::max(16, int(size.width() * scale)), h = std::max(16, int(size.height() * scale));
    const Image image = quick_picture(s.smoke ? *s.smoke : none, s.pieces ? *s.pieces : empty, s.look,
                                      s.camera, w, h, keep_going);
    if (image.rgb.empty()) return {};
    const auto bytes = display_bytes(image);
    return QImage(bytes.data(), w, h, w * 3, QImage::Format_RGB888).copy();
  }
};

class GraphicsCard : public Artist {
 public:
  /// Throws a QString that says what is missing.
  GraphicsCard(QOffscreenSurface& surface, std::function<void(const QString&)> notice)
      : notice_(std::move(notice)) {
    if (qEnvironmentVariableIsSet("EASY_POUR_NO_OPENGL")) throw Canvas::tr("it was turned off");
    if (!context_.create() || !context_.makeCurrent(&surface)) throw Canvas::tr("there is no driver");
    const QSurfaceFormat f = context_.format();
    if (f.version() < qMakePair(3, 3))
      throw Canvas::tr("the driver only knows version %1.%2").arg(f.majorVersion()).arg(f.minorVersion());
    if (const QString missing = stage_.initialize(); !missing.isEmpty()) throw missing;
  }
  ~GraphicsCard() override {
    stage_.release();
    context_.doneCurrent();
  }
  QImage draw(const Canvas::Scene& s, const QSize& size, double scale, const KeepGoing& keep_going) override {
    if (int limit = 0; s.smoke && !stage_.can_hold(*s.smoke, limit)) {
      if (!std::exchange(told_, true))
        notice_(Canvas::tr(
                    "The smoke of this frame is larger than the graphics driver holds (%1 cells a side): the "
                    "processor draws it, which takes longer.")
                    .arg(limit));
      return Processor().draw(s, size, scale, keep_going);
    }
    stage_.set_smoke(s.smoke);
    stage_.set_pieces(s.pieces);
    return stage_.draw(size.width(), size.height(), scale, s.look, s.camera, keep_going);
  }

 private:
  QOpenGLContext context_;
  StageGl stage_;
  std::function<void(const QString&)> notice_;
  bool told_ = false;
};

}  // namespace

Canvas::Canvas(std::function<void(QPainter&)> overlay, QWidget* parent)
    : QWidget(parent), overlay_(std::move(overlay)) {
  setAttribute(Qt::WA_TransparentForMouseEvents);
  setAttribute(Qt::WA_OpaquePaintEvent);
  surface_.create();
  thread_ = std::thread([this] { work(); });
}

Canvas::~Canvas() {
  {
    const std::lock_guard lock(mutex_);
    quit_ = true;
    newest_moving_ = newest_ + 1;  // ends what is being drawn
  }
  wake_.notify_one();
  thread_.join();
}

void Canvas::show_scene(const Scene& scene) {
  update();  // what lies over the picture follows at once
  if (newest_ && scene == scene_) return;
  scene_ = scene;
  ask();
}

void Canvas::set_split(double split) {
  split_ = split;
  update();
}

void Canvas::ask() {
  if (size().isEmpty()) return;
  {
    const std::lock_guard lock(mutex_);
    pending_ = Request{scene_, size() * devicePixelRatioF(), ++newest_};
    if (scene_.moving) newest_moving_ = newest_.load();
  }
  wake_.notify_one();
}

void Canvas::resizeEvent(QResizeEvent*) {
  if (newest_) ask();
}

void Canvas::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (image_.isNull()) {
    p.fillRect(rect(), QColor(74, 78, 78));
  } else {
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(rect(), image_);
    if (scene_.compares && !before_.isNull()) {
      p.setClipRect(0, 0, int(std::lround(split_ * width())), height());
      p.drawImage(rect(), before_);
      p.setClipping(false);
    }
  }
  overlay_(p);
}

/// Where only the camera moved the set is that of before.
const TracedSet& Canvas::set_of(const Traced& what) {
  if (last_set_ && last_set_->first.same_set(what))
    look_through(last_set_->second, what.shot, what.number);
  else
    last_set_.emplace(what, traced_frame(what.frame, what.shot, what.number, *what.walls));
  return last_set_->second;
}

/// More and more paths, seen whenever there are twice as many, until something else is asked for.
void Canvas::trace(const Request& now) {
  const Traced& what = *now.scene.traced;
  const auto current = [&] { return newest_ == now.number && !quit_; };
  PathTracer tracer(set_of(what), now.size.width(), now.size.height());
  for (int next = 1; tracer.samples() < what.samples && tracer.add(next, current);) {
    next = std::min(tracer.samples(), what.samples - tracer.samples());
    const auto bytes = display_bytes(tracer.picture(tracer.samples() >= 4));
    const QImage image =
        QImage(bytes.data(), now.size.width(), now.size.height(), now.size.width() * 3, QImage::Format_RGB888)
            .copy();
    QMetaObject::invokeMethod(
        this,
        [this, image, number = now.number, samples = tracer.samples()] {
          if (number != newest_) return;
          image_ = image, traced_ = samples;
          update();
          Q_EMIT drawn();
        },
        Qt::QueuedConnection);
  }
}

void Canvas::work() {
  step_back();
  std::unique_ptr<Artist> artist;
  try {
    artist = std::make_unique<GraphicsCard>(surface_, [this](const QString& text) {
      QMetaObject::invokeMethod(
          this, [this, text] { Q_EMIT failed(text); }, Qt::QueuedConnection);
    });
  } catch (const QString& missing) {
    artist = std::make_unique<Processor>();
    QMetaObject::invokeMethod(
        this,
        [this, missing] {
          missing_gl_ = missing;
          Q_EMIT gl_is_missing();
        },
        Qt::QueuedConnection);
  }
  constexpr double in_time = 0.06;  // s, for a picture of what moves
  double pace = 0;                  // s for each pixel, of the last pictures
  Camera sharp_from;                // where the last picture was seen from, if it was sharp
  bool was_sharp = false;
  while (true) {
    Request now;
    {
      std::unique_lock lock(mutex_);
      wake_.wait(lock, [&] { return quit_ || pending_; });
      if (quit_) return;
      now = std::move(*pending_);
      pending_.reset();
    }
    const double pixels = double(now.size.width()) * now.size.height();
    const auto draw = [&](double scale) {
      QElapsedTimer timer;
      timer.start();
      const bool coarse = scale < 1;
      const auto picture = [&](const Scene& scene) {
        return artist->draw(scene, now.size, scale, [&] { return coarse || newest_moving_ <= now.number; });
      };
      const QImage image = picture(now.scene);
      if (image.isNull()) return;
      QImage before;
      if (now.scene.compares) {
        Scene other = now.scene;
        other.smoke = other.smoke_before, other.pieces = other.pieces_before;
        before = picture(other);
        if (before.isNull()) return;
      }
      const double each = double(timer.nsecsElapsed()) * 1e-9 / (pixels * scale * scale);
      pace = pace > 0 ? 0.5 * (pace + each) : each;
      QMetaObject::invokeMethod(
          this,
          [this, image, before, number = now.number, coarse] {
            image_ = image, before_ = before, shown_ = number, sharp_ = !coarse, traced_ = 0;
            update();
            Q_EMIT drawn();
          },
          Qt::QueuedConnection);
    };
    const double affordable = pace > 0 ? std::clamp(std::sqrt(in_time / (pace * pixels)), 0.35, 1.0) : 0.35;
    // Where the view itself changed, something rough comes first if sharpness takes a while. Where just the
    // smoke did, as while a run goes on, each picture is finished, or none ever would be, and only a long
    // wait, as when the run needs the cores, is worth a rough one before.
    const bool same_view = was_sharp && sharp_from == now.scene.camera;
    try {
      if (now.scene.moving || (affordable < 0.7 && !same_view) || pace * pixels > 1.5)
        draw(std::min(affordable, 0.99)), was_sharp = false;
      if (!now.scene.moving && newest_moving_ <= now.number)
        draw(1), sharp_from = now.scene.camera, was_sharp = true;
      if (now.scene.traced && !now.scene.moving) trace(now);
    } catch (...) {  // memory, mostly; the next picture may be smaller
      const QString text = QString::fromUtf8(pour::fault_in_flight("Stage").what());
      QMetaObject::invokeMethod(
          this, [this, text] { Q_EMIT failed(text); }, Qt::QueuedConnection);
    }
  }
}
