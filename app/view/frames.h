// Frames of one run, the chosen or the compared one, loaded and lit away from the window's thread, with the
// next ones ahead.
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

  /// What is to be seen of the document's frame, or of the last one that was ready; empty before the first.
  struct View {
    std::shared_ptr<const pour::LitFrame> smoke;
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces;  // as the run was made with
    pour::Quantity quantity = pour::Quantity::none;
    double most = 0;  // of the quantity, at the end of its colours
    int one_in = 1;   // of so many points of liquid is shown
    double point_size = 0;
    std::shared_ptr<const pour::SmokeWalls> walls;  // of its run
  };
  const View& current() const { return current_; }
  int current_frame() const { return current_frame_; }
  /// Frames whose skins are kept as the shot says now, of the run that is loaded from.
  void set_kept(std::set<int>);
  /// Whether the skin of the frame that is wanted is being made.
  bool makes_skin() const { return makes_skin_; }
  bool ready() const { return current_frame_ == document_.frame() && current_.smoke; }

 Q_SIGNALS:
  void loaded();
  void working();  // on another frame
  void problem(const QString& text);

 private:
  struct Key {
    QString run;  // its folder and when it was made: a folder may hold another one later
    int frame;
    pour::Look look;
    pour::Showing shown;
    pour::SkinSettings surface;
    pour::FluidColors colors;
    bool kept;                     // its skins are
    std::vector<bool> shows = {};  // which pieces of the run are seen, as the document says
    bool operator==(const Key&) const = default;
  };
  struct Entry {
    Key key;
    std::shared_ptr<const pour::LitFrame> smoke;  // null where the frame can't be read
    QString fault;
    std::shared_ptr<const pour::SmokeWalls> walls;                  // of its run
    std::shared_ptr<const std::vector<pour::PicturePiece>> pieces;  // of the set
    std::shared_ptr<const std::vector<pour::PicturePiece>> seen;    // with its liquid
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
  QString newest_run_;  // that was loaded from, with its walls and pieces
  std::shared_ptr<const pour::SmokeWalls> walls_;
  std::shared_ptr<const std::vector<pour::PicturePiece>> pieces_;
  std::vector<bool> shows_;   // of them
  std::vector<Entry> cache_;  // the most recently used last
  View current_;
  int current_frame_ = 0;
  bool makes_skin_ = false;
  std::set<int> kept_;
  QFutureWatcher<Entry> watcher_;
};
