#include "start/recent.h"

#include <QCryptographicHash>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>

namespace {

constexpr int picture_width = 416;  // pixels

}  // namespace

QString Recent::picture_of(const QString& file) const {
  const QByteArray mark = QCryptographicHash::hash(file.toUtf8(), QCryptographicHash::Sha1).toHex();
  return folder_ + "/" + QString::fromLatin1(mark) + ".png";
}

std::vector<Recent::Shot> Recent::list() const {
  std::vector<Shot> out;
  QFile kept(folder_ + "/recent");
  if (folder_.isEmpty() || !kept.open(QIODevice::ReadOnly)) return out;
  for (const QByteArray& line : kept.readAll().split('\n')) {
    const QString file = QString::fromUtf8(line), picture = picture_of(file);
    if (file.isEmpty() || !QFileInfo::exists(file) || out.size() == most) continue;
    out.push_back({file, QFileInfo::exists(picture) ? picture : QString()});
  }
  return out;
}

void Recent::add(const QString& file, const QImage& picture) const {
  if (folder_.isEmpty() || file.isEmpty() || !QDir().mkpath(folder_)) return;
  QStringList files{file};
  for (const Shot& s : list())
    if (s.file != file && files.size() < int(most)) files << s.file;
  QSaveFile kept(folder_ + "/recent");
  if (!kept.open(QIODevice::WriteOnly)) return;
  kept.write(files.join('\n').toUtf8());
  kept.commit();
  if (!picture.isNull())
    picture.scaledToWidth(picture_width, Qt::SmoothTransformation).save(picture_of(file));
}
