// The recipe: seven numbered steps, in the order the work is done. One is open at a time.
#pragma once
#include <QScrollArea>
#include <QTimer>

#include "document.h"
#include "shot/describe.h"

class Analyst;
class Card;
class DeliverBox;
class QLabel;
class QPushButton;
class QVBoxLayout;
class Runs;
class Skins;

class RecipePanel : public QWidget {
  Q_OBJECT

 public:
  RecipePanel(Document&, Runs&, Analyst&, Skins&, DeliverBox* deliver, QWidget* parent = nullptr);

 Q_SIGNALS:
  void file_wanted(const QString& what);  // file name, or SVG text

 private:
  struct Step {
    QPushButton* head = nullptr;
    QLabel *numeral = nullptr, *name = nullptr, *summary = nullptr;
    QWidget* body = nullptr;
  };
  std::vector<pour::Group> described_now() const;
  void rebuild();
  void refresh();
  void mark_selected();
  void show_item(const QString& path);
  void fill(int step, QVBoxLayout* into);
  QString summary(int step) const;
  bool available(int step) const { return step != 5 || document_.shot().brings(pour::FlowKind::liquid); }
  void add_piece(int kind);
  void add_fluid(int kind);
  void add_pour();

  Document& document_;
  Runs& runs_;
  Analyst& analyst_;
  Skins& skins_;
  DeliverBox* deliver_;
  QScrollArea* scroll_ = nullptr;
  Step steps_[7];
  std::vector<Card*> cards_;
  QLabel* estimate_ = nullptr;
  QTimer rebuild_;
};
