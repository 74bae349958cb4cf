// The shots that were opened or saved last, each with its newest picture.
#pragma once
#include <QImage>
#include <QString>
#include <vector>

class Recent {
 public:
  /// Kept in this folder, which is made when there is something to keep; an empty name keeps nothing.
  explicit Recent(QString folder = {}) : folder_(std::move(folder)) {}
  struct Shot {
    QString file, picture;  // whole paths; no picture where none was taken yet
  };
  /// The newest first, without those that are gone.
  std::vector<Shot> list() const;
  /// A shot is the newest from now on. A null picture keeps the one that there is.
  void add(const QString& file, const QImage& picture = {}) const;
  static constexpr size_t most = 12;

 private:
  QString picture_of(const QString& file) const;
  QString folder_;
};
