// The card of an item: a sentence with editable values, then rows, then "more".
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
  /// A card for the group at this place, with a remove button if `removable`.
  Card(Document&, const pour::Group&, bool removable, QWidget* parent = nullptr);
  /// Updates the shown values; false if rows must be added or removed.
  bool refresh(const pour::Group&);

  void mark_chosen(bool);

 Q_SIGNALS:
  void remove();
  void chosen(bool besides);  // its title was clicked, with Control if `besides`

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
