// Works out, away from the window's thread, what follows from the shot: shapes, checks, the estimate.
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
  // The same in full, all of them solid, to see how they stand; as a stage draws them, with not too many
  // triangles; and with fewer, for while one looks around, null where that would be the same.
  std::shared_ptr<const std::vector<pour::PicturePiece>> solid_pieces = pieces, drawn_pieces = pieces,
                                                         coarse_pieces;
  std::vector<pour::Check> checks;
  pour::Box bounds;
  std::vector<pour::Staging::Seed> seeds;
  // What is never in the picture, by id, in its own space.
  std::map<std::string, std::vector<pour::OutlineEdge>> guides;
  std::map<std::string, std::vector<pour::NormalAt>> normals;  // of every piece, by id, in its own space
  double cell_size = 0;
  pour::Estimate estimate;
  pour::Camera framed;  // what would show the whole set
  bool ok = false;      // the shot can be run
  bool whole = false;   // else only the pieces are of now, and the rest is of before
  // What solvers meet, as they see it, coloured by how far that is from what it is; null: not asked for.
  std::shared_ptr<const std::vector<pour::PicturePiece>> solver_pieces;
  std::vector<std::string> solver_words;  // of each piece, what is lost of it
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
  QFutureWatcher<Analysis> watcher_;  // first of the pieces alone, where they changed; nothing where given up
  std::shared_ptr<std::atomic<bool>> given_up_ = std::make_shared<std::atomic<bool>>(false);
  QFileSystemWatcher files_;  // that the shot has copies of
  QTimer timer_;
  pour::Shot seen_, looked_at_;  // that the analysis is of; that is under way
  bool again_ = false;
};
