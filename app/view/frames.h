// Frames of the chosen or compared run, loaded and lit in the background, with prefetch.
#pragma once
#include <functional>
#include <memory>
#include <optional>
#include <QFutureWatcher>
#include <QObject>
#include <set>

#include "picture/quantity.h"
#include "picture/quick_picture.h"
#include "runs.h"
#include "surface/fluid_skins.h"

class Frames : public QObject {
  Q_OBJECT

 public:
  using Which = std::function<const pour::Run*()>;
  Frames(Document&, Runs&, Which run, QObject* parent = nullptr);
  ~Frames() override;

  /// The document's frame, or the last one that was ready; empty before the first.
  struct View {
    std::shared_ptr<const pour::LitFrame> smoke;
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces;  // with the pieces of the run
    pour::Quantity quantity = pour::Quantity::none;
    double most = 0;  // highest value of the quantity
    int one_in = 1;   // one in this many points of liquid is shown
    double point_size = 0;
    std::shared_ptr<const pour::SmokeWalls> walls;  // of its run
  };
  const View& current() const { return current_; }
  int current_frame() const { return current_frame_; }
  /// Frames of the run with current skins.
  void set_kept(std::set<int>);
  /// Whether the wanted frame's skin is being made.
  bool makes_skin() const { return makes_skin_; }
  bool ready() const { return current_frame_ == document_.frame() && current_.smoke; }

 Q_SIGNALS:
  void loaded();
  void working();  // on a frame
  void problem(const QString& text);

 private:
  struct Key {
    QString run;  // folder and time of creation, because a folder may be reused
    int frame;
    pour::Look look;
    pour::Showing shown;
    pour::SkinSettings surface;
    pour::FluidColors colors;
    bool kept;                     // with skins
    std::vector<bool> shows = {};  // visible pieces, by the document
    bool operator==(const Key&) const = default;
  };
  struct Entry {
    Key key;
    std::shared_ptr<const pour::LitFrame> smoke;  // null if the frame cannot be read
    QString fault;
    std::shared_ptr<const pour::SmokeWalls> walls;                  // of its run
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces;  // of the set
    std::shared_ptr<const std::vector<pour::PicturePiece>> seen;    // of the set and its liquid
    double most = 0;
    int one_in = 1;
  };
  void update();
  void drop_unkept();
  void load(const pour::Run&, const Key&);
  const Entry* find(const Key&) const;

  Document& document_;
  Runs& runs_;
  const Which which_;
  QString newest_run_;  // last run loaded, with its walls and pieces
  std::shared_ptr<const pour::SmokeWalls> walls_;
  std::shared_ptr<const std::vector<pour::PicturePiece>> pieces_;
  std::vector<bool> shows_;   // of them
  std::vector<Entry> cache_;  // most recently used last
  View current_;
  int current_frame_ = 0;
  bool makes_skin_ = false;
  std::set<int> kept_;
  QFutureWatcher<Entry> watcher_;
};
