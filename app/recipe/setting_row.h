// A setting as a row: name, slider or other editor, value with unit.
#pragma once
#include <functional>
#include <QMenu>
#include <QWidget>

#include "document.h"
#include "shot/describe.h"

class QPushButton;

class SettingRow : public QWidget {
  Q_OBJECT

 public:
  /// The row edits the setting at this path of the document's shot.
  SettingRow(Document&, const pour::Group&, const pour::Setting&, QWidget* parent = nullptr);
  /// Updates the shown value.
  void refresh(const pour::Setting&);
  const QString& path() const { return path_; }

 private:
  void show_track(const pour::Setting&);

  Document& document_;
  QPushButton* animate_ = nullptr;  // if the setting can be animated
  QString path_;
  std::function<void(const pour::Setting&)> show_;
};

/// An editor of a setting without its name: a field, a list, a colour. Used in rows and sentences.
QWidget* make_editor(Document&, const QString& path, const pour::Setting&, QWidget* parent,
                     std::function<void(const pour::Setting&)>& show);
/// Adds the options of a setting that takes several, to be ticked.
void add_choices(QMenu& menu, Document&, const QString& path);

/// The swatch of an option, if one ships.
QIcon swatch(const std::string& key, const std::string& choice);
/// A value for people: options by label, pieces by name, ranges with a dash.
QString spoken(const pour::Shot&, const pour::Setting&);
