// Recently opened or saved shots, each with its latest picture.
#pragma once
#include <QImage>
#include <QString>
#include <vector>

class Recent {
 public:
  /// Stored in this folder, created on demand; an empty name stores nothing.
  explicit Recent(QString folder = {}) : folder_(std::move(folder)) {}
  struct Shot {
    QString file, picture;  // full paths; the picture may be empty
  };
  /// Newest first, without missing files.
  std::vector<Shot> list() const;
  /// Records a shot as the newest. A null picture keeps the stored one.
  void add(const QString& file, const QImage& picture = {}) const;
  static constexpr size_t most = 12;

 private:
  QString picture_of(const QString& file) const;
  QString folder_;
};
