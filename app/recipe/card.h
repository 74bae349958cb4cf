// One thing of the recipe: a sentence whose values can be edited in place, then rows, then "more".
#pragma once
#include <QFrame>
#include <QVector>

#include "document.h"
#include "shot/describe.h"

class SettingRow;
class QHBoxLayout;
class QLabel;
class QPushButton;
class QVBoxLayout;

class Card : public QFrame {
  Q_OBJECT

 public:
  /// A card for the group at this place; `removable` cards have a way to be taken out.
  Card(Document&, const pour::Group&, bool removable, QWidget* parent = nullptr);
  /// Shows the shot's values again; false where rows would have to come or go.
  bool refresh(const pour::Group&);

  void mark_chosen(bool);

 Q_SIGNALS:
  void remove();
  void chosen(bool besides);  // its title was clicked, with Control or without

 protected:
  void mousePressEvent(QMouseEvent*) override;

 private:
  void add_menu(const pour::Group&, QHBoxLayout* head);
  void build_sentence(const pour::Group&);
  void edit_token(const QString& path, QPushButton* token);
  static QStringList row_keys(const pour::Group&, pour::Depth);

  Document& document_;
  QString list_, key_;
  QLabel* title_ = nullptr;
  QWidget* sentence_ = nullptr;
  QVector<QPair<QString, QPushButton*>> tokens_;
  QVector<SettingRow*> rows_;
  QStringList shown_;
};
