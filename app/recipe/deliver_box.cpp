#include "recipe/deliver_box.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMessageBox>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>

#include "deliver/deliver.h"
#include "runs.h"
#include "shot/describe.h"
#include "shot/shot_file.h"

using namespace pour;

namespace {
struct Size {
  const char* name;
  int width, height;
};
constexpr Size sizes[] = {{"Half, 960 × 540", 960, 540},        {"HD, 1280 × 720", 1280, 720},
                          {"Full HD, 1920 × 1080", 1920, 1080}, {"4K, 3840 × 2160", 3840, 2160},
                          {"Square, 1080 × 1080", 1080, 1080},  {"Upright, 1080 × 1920", 1080, 1920}};
struct Quality {
  const char* name;
  int samples;
};
constexpr Quality qualities[] = {{"Quick pictures", 0},
                                 {"Traced, to look: 16 paths a pixel", 16},
                                 {"Traced, to show: 64 paths a pixel", 64},
                                 {"Traced, fine: 256 paths a pixel", 256}};
}  // namespace

DeliverBox::DeliverBox(Document& document, Runs& runs, QWidget* parent)
    : QWidget(parent), document_(document), runs_(runs) {
  auto* card = new QFrame(this);
  card->setProperty("role", "card");
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(0, 0, 0, 0);
  outer->addWidget(card);
  auto* column = new QVBoxLayout(card);
  column->setContentsMargins(12, 10, 12, 12);
  column->setSpacing(8);
  auto* title = new QLabel(tr("Finished pictures"), card);
  title->setProperty("role", "title");
  column->addWidget(title);
  what_ = new QLabel(card);
  what_->setWordWrap(true);
  column->addWidget(what_);
  size_ = new QComboBox(card);
  size_->setObjectName("deliver_size");
  size_->setAccessibleName(tr("Size of the picture"));
  for (const Size& s : sizes) size_->addItem(tr(s.name));
  connect(size_, &QComboBox::activated, this, [this](int i) {
    if (i < int(std::size(sizes)))
      document_.edit(tr("Picture size"),
                     [&](Shot& s) { s.film.width = sizes[i].width, s.film.height = sizes[i].height; });
  });
  column->addWidget(size_);
  quality_ = new QComboBox(card);
  quality_->setObjectName("deliver_quality");
  quality_->setAccessibleName(tr("How pictures are made"));
  quality_->setToolTip(
      tr("Quick pictures take a second each; traced ones follow light through glass, liquid and "
         "smoke, and take a minute or more"));
  for (const Quality& q : qualities) quality_->addItem(tr(q.name));
  connect(quality_, &QComboBox::activated, this, [this](int i) {
    if (i < int(std::size(qualities)))
      document_.edit(tr("Samples per pixel"), [&](Shot& s) { s.film.samples = qualities[i].samples; });
  });
  column->addWidget(quality_);
  stills_ = new QComboBox(card);
  stills_->setObjectName("deliver_stills");
  stills_->setAccessibleName(tr("What images are"));
  const Setting about = find_setting(document_.shot(), "film.image_format");
  stills_->setToolTip(tr(about.help));
  for (const Option& o : about.options) stills_->addItem(tr("Images as %1").arg(tr(o.label)));
  connect(stills_, &QComboBox::activated, this,
          [this, about](int i) { document_.set("film.image_format", about.options[size_t(i)].key); });
  column->addWidget(stills_);
  hold_ = new QCheckBox(tr("Hold the frame before a gap"), card);
  hold_->setToolTip(
      tr("Shows the frame before again where one is missing, so that the film keeps its length"));
  hold_->setObjectName("deliver_hold");
  column->addWidget(hold_);
  follow_ = new QCheckBox(tr("And the frames to come"), card);
  follow_->setToolTip(
      tr("Images are made as the run yields their frames; a video or a sheet is made when it is through"));
  follow_->setObjectName("deliver_follow");
  column->addWidget(follow_);
  auto* row = new QHBoxLayout;
  video_ = new QPushButton(tr("Video …"), card);
  video_->setProperty("role", "fix");
  video_->setObjectName("deliver_video");
  video_->setToolTip(tr("MP4 with H.264, ready to send; MOV with ProRes or WebM with VP9, with alpha"));
  images_ = new QPushButton(tr("Images …"), card);
  images_->setProperty("role", "fix");
  images_->setObjectName("deliver_images");
  images_->setToolTip(tr("A file for each frame; those that are there already and still right are kept"));
  sheet_ = new QPushButton(tr("Sheet …"), card);
  sheet_->setProperty("role", "fix");
  sheet_->setObjectName("deliver_sheet");
  sheet_->setToolTip(tr("Twelve small pictures from first to last in one PNG file"));
  test_ = new QPushButton(tr("Test film"), card);
  test_->setProperty("role", "fix");
  test_->setObjectName("deliver_test");
  test_->setToolTip(tr("A small film of quick pictures beside the shot, to judge the motion by"));
  stop_ = new QPushButton(tr("Stop"), card);
  stop_->setObjectName("deliver_stop");
  row->addWidget(video_);
  row->addWidget(images_);
  row->addWidget(sheet_);
  row->addStretch(1);
  column->addLayout(row);
  auto* second = new QHBoxLayout;
  second->addWidget(test_);
  second->addWidget(stop_);
  second->addStretch(1);
  column->addLayout(second);
  bar_ = new QProgressBar(card);
  bar_->setTextVisible(false);
  column->addWidget(bar_);
  message_ = new QLabel(card);
  message_->setWordWrap(true);
  message_->setProperty("role", "quiet");
  message_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  column->addWidget(message_);
  message_->hide();
  const auto beside = [this](const QString& suffix) {
    const QFileInfo f(document_.file());
    return f.absolutePath() + "/" + f.completeBaseName() + suffix;
  };
  connect(video_, &QPushButton::clicked, this, [this, beside] {
    const QString file =
        QFileDialog::getSaveFileName(window(), tr("Deliver a video"), beside(".mp4"),
                                     tr("MP4, H.264 (*.mp4);;MOV, ProRes (*.mov);;WebM, VP9 (*.webm)"));
    if (!file.isEmpty()) make_video(file);
  });
  connect(images_, &QPushButton::clicked, this, [this, beside] {
    const QString folder =
        QFileDialog::getExistingDirectory(window(), tr("Deliver images into a folder"), beside(""));
    if (!folder.isEmpty()) make_images(folder);
  });
  connect(sheet_, &QPushButton::clicked, this, [this, beside] {
    const QString file = QFileDialog::getSaveFileName(window(), tr("Deliver a sheet"), beside("-sheet.png"),
                                                      tr("PNG (*.png)"));
    if (!file.isEmpty()) make_sheet(file);
  });
  connect(test_, &QPushButton::clicked, this, [this, beside] { make_test_film(beside("-test.mp4")); });
  connect(stop_, &QPushButton::clicked, this, [this] { job_.stop(); });
  connect(&job_, &Job::told, this, &DeliverBox::hear);
  connect(&job_, &Job::ended, this, &DeliverBox::end);
  connect(&runs_, &Runs::changed, this, &DeliverBox::refresh);
  connect(&runs_, &Runs::progress, this, [this](int) { refresh(); });
  connect(&document_, &Document::changed, this, &DeliverBox::refresh);
  refresh();
}

void DeliverBox::refresh() {
  const Film& f = document_.shot().film;
  int at = -1;
  for (int i = 0; i < int(std::size(sizes)); ++i)
    if (sizes[i].width == f.width && sizes[i].height == f.height) at = i;
  while (size_->count() > int(std::size(sizes))) size_->removeItem(size_->count() - 1);
  if (at < 0) {
    size_->addItem(tr("Own, %1 × %2").arg(f.width).arg(f.height));
    at = size_->count() - 1;
  }
  size_->setCurrentIndex(at);
  at = -1;
  for (int i = 0; i < int(std::size(qualities)); ++i)
    if (qualities[i].samples == f.samples) at = i;
  while (quality_->count() > int(std::size(qualities))) quality_->removeItem(quality_->count() - 1);
  if (at < 0) {
    quality_->addItem(tr("Traced: %1 paths a pixel").arg(f.samples));
    at = quality_->count() - 1;
  }
  quality_->setCurrentIndex(at);
  const Run* run = runs_.chosen();
  const FrameRange so_far = run ? frames_so_far(*run) : FrameRange{1, 0};
  bool gaps = false;
  for (int i = so_far.first; run && i <= so_far.last; ++i) gaps = gaps || !run->has_frame(i);
  const bool can = so_far.last >= so_far.first && !busy();
  const bool loop = run && loops(*run, options_of(document_.shot(), so_far));
  what_->setText(
      so_far.last < so_far.first
          ? tr("Run the shot first; then its frames can be delivered.")
          : tr("Run %1, frames %2 – %3, through the shot camera with the look of step 6.%4%5")
                .arg(run->number())
                .arg(so_far.first)
                .arg(so_far.last)
                .arg(gaps ? tr(" Some frames are missing: “Resume” computes them again.") : QString())
                .arg(
                    loop
                        ? tr(" The last %1 fade into the first, and the film is shorter by them.").arg(f.loop)
                        : QString()));
  hold_->setVisible(gaps);
  follow_->setVisible(run && runs_.under_way(QString::fromStdString(run->name())));
  stills_->setCurrentIndex(int(f.image_format));
  video_->setEnabled(can), images_->setEnabled(can), sheet_->setEnabled(can), test_->setEnabled(can);
  bar_->setVisible(busy()), stop_->setVisible(busy());
}

void DeliverBox::say(const QString& text) {
  message_->setText(text);
  message_->setVisible(!text.isEmpty());
}

void DeliverBox::make_video(const QString& file) {
  const bool named = file.endsWith(".mp4") || file.endsWith(".mov") || file.endsWith(".webm");
  const QString target = named ? file : file + ".mp4";
  begin(target, {"--video", target, "--replace"});
}

void DeliverBox::make_test_film(const QString& file) {
  const Film& f = document_.shot().film;
  constexpr int longest = 640;  // pixels
  const double by = std::min(1.0, double(longest) / std::max(f.width, f.height));
  const auto even = [&](int size) { return std::max(16, int(size * by) / 2 * 2); };
  begin(file, {"--video", file, "--replace", "--samples", "0", "--size",
               QString("%1x%2").arg(even(f.width)).arg(even(f.height))});
}

void DeliverBox::make_sheet(const QString& file) {
  const QString target = file.endsWith(".png") ? file : file + ".png";
  begin(target, {"--sheet", target, "--replace"});
}

void DeliverBox::make_images(const QString& folder) { make_images(folder, false); }

void DeliverBox::make_images(const QString& folder, bool replace) {
  QStringList what{"--images", folder};
  if (replace) what << "--replace";
  begin(folder, what);
}

/// Images that were made in another way are replaced only by those who say so.
void DeliverBox::ask_to_replace() {
  auto* question =
      new QMessageBox(QMessageBox::Question, tr("Deliver images"),
                      tr("%n image(s) of this name are there and were made in another way. Replace them?",
                         nullptr, in_the_way_),
                      QMessageBox::Yes | QMessageBox::No, window());
  question->setAttribute(Qt::WA_DeleteOnClose);
  connect(question, &QMessageBox::finished, this, [this, folder = target_](int answer) {
    if (answer == QMessageBox::Yes) make_images(folder, true);
  });
  question->open();
}

void DeliverBox::begin(const QString& target, const QStringList& what) {
  const Run* chosen = runs_.chosen();
  if (!chosen || busy()) return;
  target_ = target, notices_.clear(), in_the_way_ = 0;
  bar_->setRange(0, 0);
  say(tr("Making the first picture …"));
  QStringList command{"deliver", QString::fromStdString(chosen->folder.string()), "--look", "-"};
  if (hold_->isVisible() && hold_->isChecked()) command << "--hold-missing";
  if (follow_->isVisible() && follow_->isChecked()) command << "--follow";
  job_.start(command + what, QByteArray::fromStdString(shot_to_json(document_.shot())));
  refresh();
}

void DeliverBox::hear(const JobLine& line) {
  if (!line.notice.empty()) notices_ << QString::fromStdString(line.notice);
  if (line.in_the_way > 0) in_the_way_ = line.in_the_way;
  if (line.of == 0) return;
  bar_->setRange(0, line.of);
  bar_->setValue(line.done);
  say(how_far(line));
}

void DeliverBox::end(const Job::End& end) {
  refresh();
  if (in_the_way_ > 0 && !end.ok) {
    say({});
    return ask_to_replace();
  }
  const bool done = end.ok && !end.stopped;
  say(done          ? (QStringList{tr("Done: %1").arg(target_)} + notices_).join("\n")
      : end.stopped ? tr("Stopped.")
      : end.crashed ? tr("It ended unexpectedly. What is done is kept; deliver again to go on.")
                    : end.problem);
  Q_EMIT finished(done, message_->text());
}
