#include "start/new_shot_dialog.h"

#include <QButtonGroup>
#include <QDateTime>
#include <QDialogButtonBox>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QLocale>
#include <QMimeData>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QVBoxLayout>

#include "base/error.h"
#include "base/file.h"
#include "base/units.h"
#include "file_kinds.h"
#include "run/space.h"
#include "shot/arrival.h"
#include "shot/recipes.h"
#include "theme.h"

using namespace pour;

namespace {

const QString first_word = QStringLiteral("ODDLARK");
constexpr int card_width = 232, card_height = 254, picture_height = 126, gap = 12;
constexpr int help_role = Qt::UserRole + 1, job_role = Qt::UserRole + 2, file_role = Qt::UserRole + 3,
              lesson_role = Qt::UserRole + 4, draft_role = Qt::UserRole + 5;
constexpr int all_jobs = 100,
              recent_job = 101;  // beside the jobs; a group of buttons gives negative ids itself

/// A recipe as a card: its picture, what it is called, what it does.
class CardPainter : public QStyledItemDelegate {
 public:
  using QStyledItemDelegate::QStyledItemDelegate;
  QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {card_width + gap, card_height};
  }
  void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const bool chosen = option.state & QStyle::State_Selected;
    const QRectF card =
        QRectF(option.rect.x(), option.rect.y(), card_width, card_height).adjusted(1, 1, -1, -1);
    p->save();
    p->setRenderHint(QPainter::Antialiasing);
    p->setRenderHint(QPainter::SmoothPixmapTransform);
    QPainterPath outline;
    outline.addRoundedRect(card, 8, 8);
    p->fillPath(outline, theme().panel);
    p->setClipPath(outline);
    const QRectF picture(card.x(), card.y(), card.width(), picture_height);
    p->drawPixmap(picture.toRect(), index.data(Qt::DecorationRole).value<QIcon>().pixmap(416, 234));
    p->setClipping(false);
    if (const QString draft = index.data(draft_role).toString(); !draft.isEmpty()) {
      const qreal wide = option.fontMetrics.horizontalAdvance(draft);
      const QRectF pill(picture.right() - wide - 22, picture.bottom() - 28, wide + 14, 21);
      p->setPen(Qt::NoPen), p->setBrush(QColor(25, 30, 30, 200));
      p->drawRoundedRect(pill, 5, 5);
      p->setPen(QColor(0xF3, 0xF1, 0xEC)), p->setBrush(Qt::NoBrush);
      p->drawText(pill, Qt::AlignCenter, draft);
    }
    p->setPen(QPen(chosen ? theme().accent : theme().line, chosen ? 2 : 1));
    p->drawPath(outline);
    QFont bold = option.font;
    bold.setWeight(QFont::DemiBold);
    p->setFont(bold);
    p->setPen(theme().text);
    const QRectF words = card.adjusted(12, picture_height + 10, -12, -8);
    p->drawText(words, Qt::AlignTop, index.data(Qt::DisplayRole).toString());
    p->setFont(option.font);
    p->setPen(theme().quiet);
    p->drawText(words.adjusted(0, 22, 0, 0), Qt::AlignTop | Qt::TextWordWrap,
                index.data(help_role).toString());
    p->drawText(words, Qt::AlignBottom | Qt::TextWordWrap, index.data(lesson_role).toString());
    p->restore();
  }
};

bool is_shot(const QString& file) { return file.endsWith(".pour", Qt::CaseInsensitive); }
bool takes(const Shot& shot, const QString& file) { return !place_for(shot, file.toStdString()).empty(); }

/// A field with a frame around it.
QLineEdit* boxed(QLineEdit* field) {
  field->setStyleSheet(
      QString("QLineEdit { background: %1; border: 1px solid %2; border-radius: 6px; padding: 7px 10px; }"
              "QLineEdit:focus { border-color: %3; }")
          .arg(theme().panel.name(), theme().line.name(), theme().accent.name()));
  return field;
}

}  // namespace

NewShotDialog::NewShotDialog(const Recent& recent, QWidget* parent) : QDialog(parent), job_(all_jobs) {
  setWindowTitle(tr("New shot"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(24, 20, 24, 20);
  column->setSpacing(14);
  auto* title = new QLabel(tr("New shot"), this);
  QFont large = title->font();
  large.setPixelSize(19);
  large.setWeight(QFont::DemiBold);
  title->setFont(large);
  auto* head = new QHBoxLayout;
  head->addWidget(title);
  head->addStretch(1);
  search_ = boxed(new QLineEdit(this));
  search_->setObjectName("search");
  search_->setPlaceholderText(tr("Search recipes"));
  search_->setAccessibleName(tr("Search recipes"));
  search_->setClearButtonEnabled(true);
  search_->setFixedWidth(220);
  head->addWidget(search_);
  column->addLayout(head);
  auto* which = new QHBoxLayout;
  which->setSpacing(18);
  show_jobs(*which, !recent.list().empty());
  column->addLayout(which);
  recipes_ = new QListWidget(this);
  recipes_->setObjectName("recipes");
  recipes_->setAccessibleName(tr("Recipes"));
  recipes_->setViewMode(QListView::IconMode);
  recipes_->setMovement(QListView::Static);
  recipes_->setResizeMode(QListView::Adjust);
  recipes_->setItemDelegate(new CardPainter(recipes_));
  recipes_->setFrameShape(QFrame::NoFrame);
  recipes_->setStyleSheet("QListWidget { background: transparent; }");
  recipes_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  const int rows = (int(recipes().size()) + 2) / 3;
  recipes_->setFixedSize(3 * (card_width + gap) + 12, std::min(rows, 2) * (card_height + 4) + 4);
  for (const Recipe& r : recipes()) {
    const QString picture =
        QString::fromStdString((share_folder() / "recipes" / (std::string(r.key) + ".png")).string());
    auto* item = new QListWidgetItem(QIcon(picture), QString::fromUtf8(r.name), recipes_);
    item->setData(help_role, QString::fromUtf8(r.help));
    item->setData(Qt::AccessibleDescriptionRole, QString::fromUtf8(r.help));
    const QString time = QString::fromStdString(format_duration(r.draft)),
                  lesson = tr("Shows %1").arg(QString::fromUtf8(r.teaches));
    item->setData(lesson_role, lesson), item->setData(draft_role, tr("draft %1").arg(time));
    item->setToolTip(
        tr("%1\n%2\nTime of a first draft on two cores: %3").arg(QString::fromUtf8(r.help), lesson, time));
    item->setData(Qt::UserRole, r.key);
    item->setData(job_role, int(r.job));
  }
  add_recent(recent);
  connect(search_, &QLineEdit::textChanged, this, &NewShotDialog::filter);
  recipes_->setCurrentRow(0);
  column->addWidget(recipes_);
  none_ = new QLabel(tr("No recipe matches. Try another word, or All."), this);
  none_->setProperty("role", "quiet");
  none_->hide();
  column->addWidget(none_);
  auto* row = new QHBoxLayout;
  auto* label = new QLabel(tr("Word"), this);
  text_ = boxed(new QLineEdit(first_word, this));
  text_->setObjectName("word");
  text_->selectAll();
  label->setBuddy(text_);
  row->addWidget(label);
  row->addWidget(text_, 1);
  text_->setFocus();
  column->addLayout(row);
  own_ = new QPushButton(tr("Own logo or model …"), this);
  // Not every recipe has a word in it.
  const auto needs_word = [this, label] {
    bool any = false;
    if (file_of_card().isEmpty())
      for (const Piece& p : chosen().pieces) any = any || std::holds_alternative<Lettering>(p.shape);
    text_->setEnabled(any), label->setEnabled(any);
    own_->setEnabled(file_of_card().isEmpty());  // a shot of before keeps its own
  };
  connect(recipes_, &QListWidget::currentRowChanged, this, needs_word);
  needs_word();
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel, this);
  start_ = new QPushButton(tr("Start"), buttons);
  start_->setProperty("role", "main");
  start_->setObjectName("start");
  start_->setDefault(true);
  buttons->addButton(start_, QDialogButtonBox::AcceptRole);
  for (auto* b : buttons->buttons()) b->setIcon({});
  column->addWidget(buttons);
  auto* open = new QPushButton(tr("Open a shot …"), buttons);
  open->setObjectName("open_file");
  open->setAutoDefault(false);
  buttons->addButton(open, QDialogButtonBox::ActionRole);

  own_->setObjectName("own_product");
  own_->setAutoDefault(false);
  own_->setToolTip(tr("Puts a drawing or model of yours into the recipe. It can also be dropped here."));
  buttons->addButton(own_, QDialogButtonBox::ActionRole);
  connect(own_, &QPushButton::clicked, this, [this] {
    const QString chosen = QFileDialog::getOpenFileName(this, tr("Choose a logo or model"), {},
                                                        tr("Logos and models (%1)").arg(piece_patterns()));
    if (!chosen.isEmpty()) take(chosen);
  });
  setAcceptDrops(true);
  connect(open, &QPushButton::clicked, this, &NewShotDialog::open_file);
  const auto go = [this] {
    file_ = file_of_card();
    accept();
  };
  connect(buttons, &QDialogButtonBox::accepted, this, go);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  connect(recipes_, &QListWidget::itemDoubleClicked, this, go);
  filter();
}

/// A card for each shot that was worked on last.
void NewShotDialog::add_recent(const Recent& recent) {
  for (const Recent::Shot& s : recent.list()) {
    const QFileInfo f(s.file);
    auto* item = new QListWidgetItem(QIcon(s.picture), f.completeBaseName(), recipes_);
    const QString help =
        tr("%1, in %2")
            .arg(QLocale().toString(f.lastModified(), QLocale::ShortFormat), f.absoluteDir().dirName());
    item->setData(help_role, help), item->setData(Qt::AccessibleDescriptionRole, help);
    item->setData(file_role, s.file);
    item->setData(job_role, recent_job);
  }
}

void NewShotDialog::take(const QString& file) {
  if (is_shot(file)) {
    file_ = file;
    accept();
    return;
  }
  product_ = file;
  own_->setText(QFontMetrics(own_->font()).elidedText(QFileInfo(file).fileName(), Qt::ElideMiddle, 180));
  if (recipes_->currentItem() && file_of_card().isEmpty() && takes(chosen(), file)) return;
  // The chosen card has no place for it: the first recipe that has.
  search_->clear(), findChild<QPushButton*>("job_all")->click();
  for (int i = 0; i < recipes_->count(); ++i)
    if (const QString key = recipes_->item(i)->data(Qt::UserRole).toString();
        !key.isEmpty() && takes(find_recipe(key.toStdString()).make(), file))
      return recipes_->setCurrentRow(i);
}

void NewShotDialog::dragEnterEvent(QDragEnterEvent* e) {
  const QList<QUrl> urls = e->mimeData()->urls();
  if (urls.size() != 1 || !urls[0].isLocalFile()) return;
  const QString file = urls[0].toLocalFile();
  if (is_shot(file) || can_come_in(file)) e->acceptProposedAction();
}

void NewShotDialog::dropEvent(QDropEvent* e) { take(e->mimeData()->urls()[0].toLocalFile()); }

void NewShotDialog::open_file() {
  file_ = QFileDialog::getOpenFileName(this, tr("Open a shot"), {}, tr("Easy Pour shots (*.pour)"));
  if (!file_.isEmpty()) accept();
}

QString NewShotDialog::file_of_card() const {
  return recipes_->currentItem() ? recipes_->currentItem()->data(file_role).toString() : QString();
}

void NewShotDialog::show_jobs(QHBoxLayout& row, bool recent) {
  auto* group = new QButtonGroup(this);
  const auto add = [&](int job, const QString& name, const QString& object) {
    auto* tab = new QPushButton(name, this);
    tab->setObjectName(object);
    tab->setProperty("role", "tab");
    tab->setCheckable(true);
    tab->setAutoDefault(false);
    tab->setChecked(job == job_);
    group->addButton(tab, job);
    row.addWidget(tab);
  };
  if (recent) add(recent_job, tr("Recent shots"), "job_recent");
  add(all_jobs, recent ? tr("All recipes") : tr("All"), "job_all");
  for (size_t i = 0; i < recipe_jobs().size(); ++i)
    add(int(i), QString::fromUtf8(recipe_jobs()[i].label), QString("job_%1").arg(i));
  row.addStretch(1);
  for (QAbstractButton* tab : group->buttons())
    connect(tab, &QPushButton::clicked, this, [this, job = group->id(tab)] { job_ = job, filter(); });
}

void NewShotDialog::filter() {
  const QStringList words = search_->text().split(' ', Qt::SkipEmptyParts);
  QListWidgetItem* first = nullptr;
  for (int i = 0; i < recipes_->count(); ++i) {
    QListWidgetItem* item = recipes_->item(i);
    const QString all = item->text() + ' ' + item->data(help_role).toString();
    const int job = item->data(job_role).toInt();
    const bool fits = (job_ == all_jobs ? job != recent_job : job == job_) &&
                      std::all_of(words.begin(), words.end(), [&](const QString& word) {
                        return all.contains(word, Qt::CaseInsensitive);
                      });
    item->setHidden(!fits);
    if (fits && !first) first = item;
  }
  start_->setEnabled(first);
  none_->setVisible(!first);
  if (first && recipes_->currentItem()->isHidden()) recipes_->setCurrentItem(first);
  start_->setText(file_of_card().isEmpty() ? tr("Start") : tr("Open"));
  if (first) recipes_->scrollToItem(recipes_->currentItem());
}

Shot NewShotDialog::chosen() const {
  return find_recipe(recipes_->currentItem()->data(Qt::UserRole).toString().toStdString()).make();
}

Shot NewShotDialog::shot() const {
  const QString text = text_->text().trimmed();
  Shot s = find_recipe(recipes_->currentItem()->data(Qt::UserRole).toString().toStdString())
               .make(text == first_word ? std::string() : text.toStdString());
  const bool has_word = std::any_of(s.pieces.begin(), s.pieces.end(), [](const Piece& p) {
    return std::holds_alternative<Lettering>(p.shape);
  });
  if (has_word && !text.isEmpty() && text != first_word) s.film.title = text.toStdString();
  try {
    if (text != first_word) stand_on_floor(s), s.camera = framed(s, Space(s));
  } catch (const Fault&) {  // a word that its font can't set: the checks will say so
  }
  return s;
}
