#include "skins.h"

#include <QElapsedTimer>
#include <QtConcurrent>

#include "background.h"
#include "base/error.h"
#include "base/units.h"
#include "deliver/deliver.h"
#include "deliver/skins.h"
#include "runs.h"
#include "shot/compare.h"
#include "trace/kept_skins.h"

using namespace pour;

Skins::Skins(Document& document, Runs& runs, QObject* parent)
    : QObject(parent), document_(document), runs_(runs) {
  timer_.setSingleShot(true);
  timer_.setInterval(400);
  connect(&timer_, &QTimer::timeout, this, &Skins::look);
  for (const auto signal : {&Document::changed, &Document::replaced})
    connect(&document_, signal, this, [this] { timer_.start(); });
  connect(&runs_, &Runs::changed, this, [this] { timer_.start(); });
  connect(&runs_, &Runs::progress, this, [this](int) {
    if (!timer_.isActive()) timer_.start();
  });
  connect(&looking_, &QFutureWatcher<std::set<int>>::finished, this, [this] {
    kept_ = looking_.result();
    Q_EMIT changed();
    if (again_) again_ = false, timer_.start();
  });
  connect(&making_, &QFutureWatcher<QString>::progressValueChanged, this, [this](int n) {
    done_ = n;
    if (!timer_.isActive()) timer_.start();
  });
  connect(&making_, &QFutureWatcher<QString>::progressTextChanged, this, [this](const QString& text) {
    words_ = text;
    Q_EMIT changed();
  });
  connect(&making_, &QFutureWatcher<QString>::finished, this, [this] {
    words_ = making_.result();
    timer_.start();
    Q_EMIT changed();
  });
}

Skins::~Skins() {
  cancel_ = true;
  looking_.waitForFinished(), making_.waitForFinished();
}

void Skins::look() {
  if (looking_.isRunning()) {
    again_ = true;
    return;
  }
  const Run* run = runs_.chosen();
  const FrameRange range = run ? frames_so_far(*run) : FrameRange{1, 0};
  frames_ = run && run->shot.brings(FluidKind::liquid) ? std::max(0, range.last - range.first + 1) : 0;
  if (frames_ == 0) {
    kept_.clear();
    return Q_EMIT changed();
  }
  looking_.setFuture(QtConcurrent::run([run = *run, shot = document_.shot(), range] {
    step_back();
    std::set<int> out;
    const Shot seen = seen_as(run.shot, shot);
    for (int f = range.first; f <= range.last; ++f)
      if (run.has_frame(f) && has_skins(run.stored_frame(f), seen, f)) out.insert(f);
    return out;
  }));
}

void Skins::make() {
  const Run* chosen = runs_.chosen();
  if (!chosen || busy() || frames_ == 0) return;
  cancel_ = false, done_ = 0;
  words_ = tr("Making the first skin …");
  making_.setFuture(
      QtConcurrent::run([this, run = *chosen, shot = document_.shot()](QPromise<QString>& promise) {
        step_back();
        QElapsedTimer clock;
        clock.start();
        const FrameRange range = frames_so_far(run);
        promise.setProgressRange(0, range.last - range.first + 1);
        try {
          const SkinsMade made = make_skins(run, shot, range, [&](int done, int of) {
            const double left = double(clock.elapsed()) / 1000 / done * (of - done);
            promise.setProgressValueAndText(
                done,
                tr("%1 of %2, %3 left").arg(done).arg(of).arg(QString::fromStdString(format_duration(left))));
            return !cancel_;
          });
          promise.addResult(made.whole ? tr("All of them are kept.")
                                       : tr("Stopped; those that are done are kept."));
        } catch (...) {
          promise.addResult(QString::fromUtf8(fault_in_flight("Skins").what()));
        }
      }));
  Q_EMIT changed();
}
