#include "start/new_shot_dialog.h"

#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "base/error.h"
#include "base/file.h"
#include "run/space.h"
#include "shot/recipes.h"

using namespace pour;

namespace {
const QString first_word = QStringLiteral("ODDLARK");
}

NewShotDialog::NewShotDialog(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("New shot"));
  setMinimumSize(720, 380);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 20, 20, 20);
  column->setSpacing(12);
  recipes_ = new QListWidget(this);
  recipes_->setObjectName("recipes");
  recipes_->setAccessibleName(tr("Recipes"));
  recipes_->setViewMode(QListView::IconMode);
  recipes_->setIconSize({208, 117});
  recipes_->setGridSize({222, 178});
  recipes_->setMovement(QListView::Static);
  recipes_->setWordWrap(true);
  recipes_->setResizeMode(QListView::Adjust);
  for (const Recipe& r : recipes()) {
    const QString picture =
        QString::fromStdString((share_folder() / "recipes" / (std::string(r.key) + ".png")).string());
    auto* item = new QListWidgetItem(QIcon(picture), QString::fromUtf8(r.name), recipes_);
    item->setToolTip(QString::fromUtf8(r.help));
    item->setData(Qt::UserRole, r.key);
  }
  recipes_->setCurrentRow(0);
  column->addWidget(recipes_, 1);
  auto* form = new QFormLayout;
  text_ = new QLineEdit(first_word, this);
  text_->setObjectName("word");
  form->addRow(tr("The word"), text_);
  column->addLayout(form);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, this);
  buttons->button(QDialogButtonBox::Ok)->setText(tr("Start"));
  buttons->button(QDialogButtonBox::Ok)->setProperty("role", "main");
  column->addWidget(buttons);
  connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  connect(recipes_, &QListWidget::itemDoubleClicked, this, &QDialog::accept);
}

Shot NewShotDialog::shot() const {
  Shot s = find_recipe(recipes_->currentItem()->data(Qt::UserRole).toString().toStdString()).make();
  const QString text = text_->text().trimmed();
  for (Piece& p : s.pieces)
    if (p.kind == PieceKind::lettering && !text.isEmpty()) {
      p.text = text.toStdString();
      s.title = text.toStdString();
    }
  try {
    if (text != first_word) stand_on_floor(s), s.camera = framed(s, Space(s));
  } catch (const Fault&) {  // a word that its font can't set: the checks will say so
  }
  return s;
}
