// Frames of the chosen run, loaded and lit away from the window's thread, with the next ones ahead.
#pragma once
#include <memory>
#include <optional>
#include <QFutureWatcher>
#include <QObject>

#include "picture/lit_smoke.h"
#include "runs.h"

class Frames : public QObject {
  Q_OBJECT

 public:
  Frames(Document&, Runs&, QObject* parent = nullptr);
  ~Frames() override;

  /// The lit smoke of the document's frame, or the last one that was ready; null before the first.
  std::shared_ptr<const pour::LitSmoke> current() const { return current_; }
  int current_frame() const { return current_frame_; }
  bool ready() const { return current_frame_ == document_.frame() && current_; }

 Q_SIGNALS:
  void loaded();
  void problem(const QString& text);

 private:
  struct Key {
    QString run;
    int frame;
    pour::Look look;
    bool operator==(const Key&) const = default;
  };
  struct Entry {
    Key key;
    std::shared_ptr<const pour::LitSmoke> smoke;  // null where the frame can't be read
    QString fault;
    std::shared_ptr<const pour::SmokeWalls> walls;  // of its run
  };
  void update();
  void load(const Key&);
  const Entry* find(const Key&) const;

  Document& document_;
  Runs& runs_;
  QString walls_of_;  // the run whose walls are known
  std::shared_ptr<const pour::SmokeWalls> walls_;
  std::vector<Entry> cache_;  // the most recently used last
  std::shared_ptr<const pour::LitSmoke> current_;
  int current_frame_ = 0;
  QFutureWatcher<Entry> watcher_;
};
