// Which files come in as pieces, for dialogs and drops.
#pragma once
#include <QFileInfo>
#include <QStringList>

#include "shape/model_file.h"

inline QStringList model_patterns() {
  QStringList out;
  for (const char* suffix : pour::model_suffixes) out << QString("*.%1").arg(suffix);
  return out;
}

/// Patterns of everything that can become a piece: “*.svg *.obj …”.
inline QString piece_patterns() { return "*.svg " + model_patterns().join(' '); }

/// Whether a file can become a piece, by its suffix.
inline bool can_come_in(const QString& file) {
  return piece_patterns().split(' ').contains("*." + QFileInfo(file).suffix().toLower());
}
