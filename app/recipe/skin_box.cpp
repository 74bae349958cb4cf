#include "recipe/skin_box.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>

#include "skins.h"

SkinBox::SkinBox(Skins& skins, QWidget* parent) : QWidget(parent), skins_(skins) {
  auto* card = new QFrame(this);
  card->setProperty("role", "card");
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(0, 0, 0, 0);
  outer->addWidget(card);
  auto* column = new QVBoxLayout(card);
  column->setContentsMargins(12, 10, 12, 12);
  column->setSpacing(8);
  auto* title = new QLabel(tr("Skins that are kept"), card);
  title->setProperty("role", "title");
  column->addWidget(title);
  const auto label = [&](const char* role) {
    auto* l = new QLabel(card);
    l->setWordWrap(true);
    l->setProperty("role", role);
    column->addWidget(l);
    return l;
  };
  what_ = label("");
  what_->setObjectName("skins_kept");
  auto* row = new QHBoxLayout;
  make_ = new QPushButton(tr("Build skins"), card);
  make_->setObjectName("make_skins");
  make_->setProperty("role", "fix");
  make_->setToolTip(
      tr("The skin of every frame that has none yet as it is set here: pictures need not make it again; "
         "while a run is under way, of the frames to come, too"));
  stop_ = new QPushButton(tr("Stop"), card);
  stop_->setObjectName("stop_skins");
  row->addWidget(make_), row->addWidget(stop_), row->addStretch(1);
  column->addLayout(row);
  bar_ = new QProgressBar(card);
  bar_->setTextVisible(false);
  column->addWidget(bar_);
  words_ = label("quiet");
  words_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  connect(make_, &QPushButton::clicked, &skins_, &Skins::make);
  connect(stop_, &QPushButton::clicked, &skins_, &Skins::stop);
  connect(&skins_, &Skins::changed, this, &SkinBox::refresh);
  refresh();
}

void SkinBox::refresh() {
  const int frames = skins_.frames(), kept = int(skins_.kept().size());
  what_->setText(
      frames == 0      ? tr("Run the shot first. The skin is made as you look; of a run it can be kept.")
      : kept == frames ? tr("All %1 frames have the skin that is set here.").arg(frames)
                       : tr("%1 of %2 frames have the skin that is set here. Of the others it is made "
                            "each time as they are looked at.")
                             .arg(kept)
                             .arg(frames));
  make_->setEnabled(frames > 0 && kept < frames && !skins_.busy());
  stop_->setVisible(skins_.busy()), bar_->setVisible(skins_.busy());
  bar_->setRange(0, std::max(1, skins_.of())), bar_->setValue(skins_.done());
  words_->setText(skins_.words());
  words_->setVisible(!skins_.words().isEmpty());
}
