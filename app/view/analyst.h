// Analyses the shot in the background: shapes, checks, estimate.
#pragma once
#include <atomic>
#include <map>
#include <memory>
#include <QFileSystemWatcher>
#include <QFutureWatcher>
#include <QObject>
#include <QTimer>

#include "check/checks.h"
#include "document.h"
#include "picture/quick_picture.h"
#include "run/space.h"
#include "run/staging.h"
#include "shape/normals.h"
#include "shape/outline.h"

class Runs;

struct Analysis {
  std::shared_ptr<const std::vector<pour::PicturePiece>> pieces =
      std::make_shared<std::vector<pour::PicturePiece>>();
  // The set in full with all pieces solid; simplified for the stage; and simplified further for motion, null
  // if equal.
  std::shared_ptr<const std::vector<pour::PicturePiece>> solid_pieces = pieces, drawn_pieces = pieces,
                                                         coarse_pieces;
  std::vector<pour::Check> checks;
  pour::Box bounds;
  std::vector<pour::Staging::Seed> seeds;
  // Surfaces of pieces never in the picture, by id, in their frames of reference.
  std::map<std::string, std::vector<pour::OutlineEdge>> guides;
  std::map<std::string, std::vector<pour::NormalAt>>
      normals;  // of every piece, by id, in its frame of reference
  double cell_size = 0;
  pour::Estimate estimate;
  pour::Camera framed;  // a camera that shows the whole set
  bool ok = false;      // the shot can be simulated
  bool whole = false;   // false: only the pieces are up to date
  // The set as the solver sees it, coloured by its error; null: not asked for.
  std::shared_ptr<const std::vector<pour::PicturePiece>> solver_pieces;
  std::vector<std::string> solver_words;  // lost detail of each piece, in words
};

class Analyst : public QObject {
  Q_OBJECT

 public:
  Analyst(Document&, Runs&, QObject* parent = nullptr);
  ~Analyst() override;
  const Analysis& now() const { return analysis_; }
  bool busy() const { return watcher_.isRunning() || timer_.isActive(); }

 Q_SIGNALS:
  void changed();

 private:
  void look();
  void watch_files();
  Document& document_;
  Runs& runs_;
  Analysis analysis_;
  QFutureWatcher<Analysis> watcher_;  // first of changed pieces only; nothing if cancelled
  std::shared_ptr<std::atomic<bool>> given_up_ = std::make_shared<std::atomic<bool>>(false);
  QFileSystemWatcher files_;  // of which the shot has copies
  QTimer timer_;
  pour::Shot seen_, looked_at_;  // of the current and the running analysis
  bool again_ = false;
};
