#include "view/analyst.h"

#include <QFileInfo>
#include <QtConcurrent>

#include "background.h"
#include "base/error.h"
#include "runs.h"
#include "shot/describe.h"

using namespace pour;

Analyst::Analyst(Document& document, Runs& runs, QObject* parent)
    : QObject(parent), document_(document), runs_(runs) {
  timer_.setSingleShot(true);
  timer_.setInterval(200);
  connect(&timer_, &QTimer::timeout, this, &Analyst::look);
  connect(&document_, &Document::changed, this, [this] { timer_.start(); });
  connect(&runs_, &Runs::changed, this, [this] { timer_.start(); });
  connect(&watcher_, &QFutureWatcher<Analysis>::finished, this, [this] {
    analysis_ = watcher_.result();
    Q_EMIT changed();
    if (again_) again_ = false, timer_.start();
  });
}

Analyst::~Analyst() { watcher_.waitForFinished(); }

void Analyst::look() {
  if (watcher_.isRunning()) {
    again_ = true;
    return;
  }
  const QString folder =
      QFileInfo(document_.file().isEmpty() ? QStringLiteral(".") : document_.file()).absolutePath();
  // Looks and cameras change neither shapes nor the estimate.
  const bool shapes_stay = analysis_.ok && same_simulation(document_.shot(), seen_);
  watcher_.setFuture(QtConcurrent::run(
      [shot = document_.shot(), folder, pace = runs_.pace(), old = analysis_, shapes_stay]() -> Analysis {
        step_back();
        Analysis a;
        try {
          if (shapes_stay) {
            a.pieces = old.pieces, a.solid_pieces = old.solid_pieces;
          } else {
            std::vector<PicturePiece> pieces = picture_pieces(shot), solid = pieces;
            for (PicturePiece& p : solid) p.glass = false;
            a.pieces = std::make_shared<const std::vector<PicturePiece>>(std::move(pieces));
            a.solid_pieces = std::make_shared<const std::vector<PicturePiece>>(std::move(solid));
          }
          const Space space(shot);
          a.framed = framed(shot, space);
          const Scene scene(shot, space);
          a.bounds = scene.bounds(), a.cell_size = scene.cell_size(), a.estimate = scene.estimate(pace);
          a.seeds = scene.seeds();
          a.ok = true;
        } catch (const Fault&) {  // the checks below say what it is
        }
        a.checks = check_shot(shot, folder.toStdString());
        return a;
      }));
  seen_ = document_.shot();
}
