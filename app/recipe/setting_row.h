// One described setting as a row: name, slider or other editor, value with its unit.
#pragma once
#include <functional>
#include <QWidget>

#include "document.h"
#include "shot/describe.h"

class QPushButton;

class SettingRow : public QWidget {
  Q_OBJECT

 public:
  /// The row edits the setting at this path of the document's shot.
  SettingRow(Document&, const pour::Group&, const pour::Setting&, QWidget* parent = nullptr);
  /// Shows the shot's value again.
  void refresh(const pour::Setting&);
  const QString& path() const { return path_; }

 private:
  void show_track(const pour::Setting&);

  Document& document_;
  QPushButton* animate_ = nullptr;  // of settings that can change in time
  QString path_;
  std::function<void(const pour::Setting&)> show_;
};

/// An editor for a setting without its name: a field, a list, a colour. Used by rows and by sentences.
QWidget* make_editor(Document&, const QString& path, const pour::Setting&, QWidget* parent,
                     std::function<void(const pour::Setting&)>& show);
/// The small picture of a choice, where one ships.
QIcon swatch(const std::string& key, const std::string& choice);
/// A value as people say it: options by their label, pieces by their name, frames with a dash.
QString spoken(const pour::Shot&, const pour::Setting&);
