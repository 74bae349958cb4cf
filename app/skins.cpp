#include "skins.h"

#include <QtConcurrent>

#include "background.h"
#include "deliver/deliver.h"
#include "runs.h"
#include "shot/compare.h"
#include "shot/shot_file.h"
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
  connect(&job_, &Job::told, this, &Skins::hear);
  connect(&job_, &Job::ended, this, [this](const Job::End& end) {
    words_ = end.stopped ? tr("Stopped; those that are done are kept.")
             : end.ok    ? tr("All of them are kept.")
                         : end.problem;
    timer_.start();
    Q_EMIT changed();
  });
}

Skins::~Skins() { looking_.waitForFinished(); }

void Skins::look() {
  if (looking_.isRunning()) {
    again_ = true;
    return;
  }
  const Run* run = runs_.chosen();
  const FrameRange range = run ? frames_so_far(*run) : FrameRange{1, 0};
  frames_ = run && run->shot.brings(FlowKind::liquid) ? std::max(0, range.last - range.first + 1) : 0;
  if (frames_ == 0) {
    kept_.clear();
    return Q_EMIT changed();
  }
  looking_.setFuture(QtConcurrent::run(&beside(), [run = *run, shot = document_.shot(), range] {
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
  QStringList command{"surface", QString::fromStdString(chosen->folder.string()), "--look", "-"};
  if (runs_.under_way(QString::fromStdString(chosen->name()))) command << "--follow";
  done_ = 0, of_ = frames_;
  words_ = tr("Making the first skin …");
  job_.start(command, QByteArray::fromStdString(shot_to_json(document_.shot())));
  Q_EMIT changed();
}

void Skins::hear(const JobLine& line) {
  if (line.of == 0) return;
  done_ = line.done, of_ = line.of;
  words_ = how_far(line);
  if (!timer_.isActive()) timer_.start();
  Q_EMIT changed();
}
