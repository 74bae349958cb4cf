#include "arrivals.h"

#include <atomic>
#include <QFileInfo>
#include <QFutureWatcher>
#include <QProgressDialog>
#include <QtConcurrent>

#include "background.h"
#include "base/error.h"
#include "shot/arrival.h"
#include "shot/edit.h"

using namespace pour;

Arrivals::Arrivals(Document& document, QWidget* window)
    : QObject(window), document_(document), window_(window) {
  connect(&document_, &Document::slow_edit, this, &Arrivals::edit);
}

Arrivals::~Arrivals() {
  if (given_up_) *given_up_ = true;
  *closing_ = true;
  reading_.waitForFinished();
}

void Arrivals::run(const QString& words, const std::function<void(const StopAsked&)>& read,
                   const std::function<void()>& take) {
  if (reading_.isRunning())
    return (void)Q_EMIT refused(tr("Something is being read already. Wait for it, or cancel it."));
  const auto given_up = given_up_ = std::make_shared<std::atomic<bool>>(false);
  auto* progress = new QProgressDialog(words, tr("Cancel"), 0, 0, window_);
  progress->setObjectName("arriving");
  progress->setMinimumDuration(400);
  progress->setValue(0);
  connect(progress, &QProgressDialog::canceled, this, [given_up] { *given_up = true; });
  connect(&document_, &Document::replaced, progress, [given_up] { *given_up = true; });
  auto problem = std::make_shared<QString>();
  auto* watcher = new QFutureWatcher<void>(this);
  connect(watcher, &QFutureWatcher<void>::finished, this, [this, watcher, progress, problem, given_up, take] {
    watcher->deleteLater(), progress->deleteLater();
    if (*given_up) return;
    if (problem->isEmpty())
      take();
    else
      Q_EMIT document_.problem(*problem);
  });
  reading_ = QtConcurrent::run(&beside(), [given_up, problem, read, words] {
    step_back();
    try {
      read([given_up] { return given_up->load(); });
    } catch (const GivenUp&) {
      *given_up = true;
    } catch (...) {
      const Fault f = fault_in_flight(words.toStdString());
      *problem = QString::fromStdString(f.problem + " " + f.mend);
    }
  });
  watcher->setFuture(reading_);
}

void Arrivals::bring_in(const QString& what) {
  const QString name = what.contains("<svg") ? tr("a drawing") : QFileInfo(what).fileName();
  const auto arrival = std::make_shared<Arrival>();
  run(
      tr("Bringing in %1 …").arg(name),
      [arrival, what](const StopAsked& stop) { *arrival = read_arrival(what.toStdString(), stop); },
      [this, arrival] {
        std::string path;
        document_.edit(tr("Bring in a file"), [&](Shot& s) { path = add_arrival(s, *arrival); });
        if (path.empty()) return;
        Q_EMIT arrived(QString::fromStdString(path.substr(path.find('.') + 1)));
        to_describe_.push_back(arrival->shape);
      });
}

void Arrivals::describe_all() {
  for (const Shape& shape : std::exchange(to_describe_, {})) describe(shape);
}

void Arrivals::describe(const Shape& shape) {
  const auto words = std::make_shared<QString>();
  auto* watcher = new QFutureWatcher<void>(this);
  ++describing_;
  connect(watcher, &QFutureWatcher<void>::finished, this, [this, watcher, words] {
    watcher->deleteLater();
    --describing_;
    if (!words->isEmpty()) Q_EMIT described(*words);
  });
  const auto looking = QtConcurrent::run(&beside(), [words, shape, closing = closing_] {
    step_back();
    try {
      *words = QString::fromStdString(arrival_in_words(shape, [closing] { return closing->load(); }));
    } catch (const GivenUp&) {
    } catch (...) {  // the checks say what it is
    }
  });
  looking_.addFuture(looking);
  watcher->setFuture(looking);
}

void Arrivals::edit(const QString& what, const std::function<void(Shot&)>& change) {
  const auto before = std::make_shared<const Shot>(document_.shot());
  const auto after = std::make_shared<Shot>(*before);
  run(
      tr("%1 …").arg(what), [after, change](const StopAsked&) { change(*after); },
      [this, before, after, what, change] {
        document_.edit(what, [&](Shot& s) {
          if (s == *before)
            s = *after;
          else
            change(s);  // other things were changed in the meantime
        });
      });
}
