#include "view/viewport.h"

#include <cmath>
#include <QActionGroup>
#include <QContextMenuEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

#include "base/error.h"
#include "base/units.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/compare.h"
#include "shot/describe.h"
#include "theme.h"

using namespace pour;

namespace {
constexpr int legend_width = 96;
}

Viewport::Viewport(Document& document, Runs& runs, Frames& frames, Frames& before, Analyst& analyst,
                   QWidget* parent)
    : QWidget(parent), document_(document), runs_(runs), frames_(frames), before_(before), analyst_(analyst) {
  setObjectName("viewport");
  setAccessibleName(tr("Stage"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(200, 160);
  canvas_ = new Canvas([this](QPainter& p) { paint_overlay(p); }, this);
  connect(canvas_, &Canvas::gl_is_missing, this, &Viewport::update_labels);
  connect(canvas_, &Canvas::drawn, this, &Viewport::update_labels);
  connect(canvas_, &Canvas::failed, &document_, &Document::problem);

  stages_ = new QWidget(this);
  stages_->setStyleSheet("QWidget#stages { background: rgba(25,30,30,200); border-radius: 7px; }");
  stages_->setObjectName("stages");
  stages_->setAttribute(Qt::WA_StyledBackground);
  auto* row = new QHBoxLayout(stages_);
  row->setContentsMargins(3, 3, 3, 3);
  row->setSpacing(2);
  const char* names[3] = {QT_TR_NOOP("Set"), QT_TR_NOOP("Fluid"), QT_TR_NOOP("Picture")};
  const char* tips[3] = {QT_TR_NOOP("Shows the pieces and where they stand"),
                         QT_TR_NOOP("Shows the smoke with its bounds and figures"),
                         QT_TR_NOOP("Shows the picture as it is delivered")};
  for (int i = 0; i < 3; ++i) {
    auto* b = stage_buttons_[i] = new QPushButton(tr(names[i]), stages_);
    b->setProperty("role", "stage");
    b->setCheckable(true);
    b->setToolTip(tr(tips[i]));
    b->setObjectName(QString("stage_%1").arg(i));
    connect(b, &QPushButton::clicked, this, [this, i] { document_.show_stage(Stage(i)); });
    row->addWidget(b);
  }
  follow_ = new QPushButton(tr("Pinned"), stages_);
  follow_->setProperty("role", "stage");
  follow_->setToolTip(tr("The stage stays on this view. Press to let it follow the open step again."));
  connect(follow_, &QPushButton::clicked, &document_, &Document::unpin);
  row->addWidget(follow_);

  const auto button = [&](const QString& text, const QString& tip) {
    auto* b = new QPushButton(text, this);
    b->setStyleSheet(
        "QPushButton { background: rgba(25,30,30,200); color: #F3F1EC; border: none; border-radius: 6px; "
        "padding: 6px 12px; }"
        "QPushButton:focus { border: 1px solid #8FD6C8; }");
    b->setToolTip(tip);
    return b;
  };
  keep_ = button(tr("Keep as shot camera"), tr("Makes this view the camera of the shot"));
  back_ = button(tr("Back to shot camera"), tr("Looks through the camera of the shot again"));
  frame_ = button(tr("Frame the set"),
                  tr("Moves the view so that what is selected, or the whole set, is in the picture (C)"));
  frame_->setObjectName("frame_set");
  connect(frame_, &QPushButton::clicked, this, &Viewport::frame_selected);
  trace_ = button(tr("Trace"),
                  tr("Follows light through glass, liquid and smoke: the picture as it can be delivered, "
                     "finer and finer"));
  trace_->setObjectName("trace");
  trace_->setCheckable(true);
  trace_->setStyleSheet(trace_->styleSheet() + "QPushButton:checked { background: #0E6B66; }");
  connect(trace_, &QPushButton::toggled, &document_, &Document::set_traced);
  focus_ = button(tr("Focus"), tr("Then click on what is to be sharp"));
  focus_->setObjectName("focus");
  focus_->setCheckable(true);
  focus_->setStyleSheet(trace_->styleSheet());
  connect(focus_, &QPushButton::toggled, this, &Viewport::update_labels);
  as_solver_ =
      button(tr("As the solver sees it"),
             tr("Shows what blocks, holds or drains on the cells of this run, coloured by how far that is "
                "from what it is"));
  as_solver_->setObjectName("as_solver");
  as_solver_->setCheckable(true);
  as_solver_->setStyleSheet(trace_->styleSheet());
  connect(as_solver_, &QPushButton::toggled, &document_, &Document::set_solver_view);
  normals_ =
      button(tr("Normals"),
             tr("Shows where the surfaces face of what is selected and of what something pours out of"));
  normals_->setObjectName("normals");
  normals_->setCheckable(true);
  normals_->setStyleSheet(trace_->styleSheet());
  connect(normals_, &QPushButton::toggled, this, &Viewport::refresh);
  lines_ = button(tr("Lines"), tr("Lines to compose by: thirds, safe areas, other formats"));
  lines_->setObjectName("lines");
  auto* guides = new QMenu(lines_);
  add_guides(*guides);
  lines_->setMenu(guides);
  end_compare_ = button(tr("End comparison"), tr("Shows one run alone again"));
  end_compare_->setObjectName("end_compare");
  connect(end_compare_, &QPushButton::clicked, this, [this] { runs_.compare({}); });
  keep_->setObjectName("keep_view"), back_->setObjectName("back_to_camera");
  connect(keep_, &QPushButton::clicked, &document_, &Document::keep_view);
  connect(back_, &QPushButton::clicked, &document_, &Document::back_to_shot_camera);
  shows_ = button(tr("As it looks"), tr("Shows the fluid as it looks, or a quantity in false colours"));
  shows_->setObjectName("shows");
  auto* quantities = new QMenu(shows_);
  for (int i = 0; i < int(std::size(quantity_names)); ++i) {
    auto* a = quantities->addAction(tr(quantity_names[i].name));
    a->setObjectName(QString("show_%1").arg(quantity_names[i].key));
    connect(a, &QAction::triggered, this, [this, i] { document_.show_quantity(Quantity(i)); });
    connect(quantities, &QMenu::aboutToShow, a, [this, a, i] {
      const Shot& shot = document_.shot();
      a->setVisible((quantity_names[i].of_smoke && shot.brings(FlowKind::gas)) ||
                    (quantity_names[i].of_liquid && shot.brings(FlowKind::liquid)));
    });
  }
  add_point_sizes(*quantities);
  shows_->setMenu(quantities);
  for (QLabel** l : {&left_, &right_}) {
    *l = new QLabel(this);
    (*l)->setStyleSheet("color: #F3F1EC; background: transparent;");
    (*l)->setAttribute(Qt::WA_TransparentForMouseEvents);
  }
  left_->setObjectName("readout_left"), right_->setObjectName("readout_right");
  right_->setAlignment(Qt::AlignRight);

  rest_.setSingleShot(true);
  rest_.setInterval(180);
  connect(&rest_, &QTimer::timeout, this, [this] {
    moving_ = false;
    refresh();
  });
  connect(&document_, &Document::changed, this, &Viewport::refresh);
  connect(&document_, &Document::view_changed, this, &Viewport::refresh);
  connect(&document_, &Document::stage_changed, this, &Viewport::refresh);
  connect(&document_, &Document::selection_changed, this, &Viewport::refresh);
  connect(&document_, &Document::playing_changed, this, &Viewport::refresh);
  for (Frames* f : {&frames_, &before_})
    connect(f, &Frames::loaded, this, [this] {
      if (moving_) rest_.start();
      refresh();
    });
  connect(&frames_, &Frames::working, this, &Viewport::update_labels);
  connect(&analyst_, &Analyst::changed, this, &Viewport::refresh);
  connect(&runs_, &Runs::changed, this, &Viewport::refresh);
  connect(&runs_, &Runs::progress, this, [this](int) { update_labels(); });
  connect(&document_, &Document::frame_changed, this, &Viewport::refresh);
  connect(&document_, &Document::changed, this, [this] { ways_known_ = false; });
  refresh();
}

QImage Viewport::picture() const { return canvas_->grab().toImage(); }

Viewport::~Viewport() {
  delete canvas_;  // while the members that it draws from are alive
}

/// How liquid is drawn.
void Viewport::add_point_sizes(QMenu& menu) {
  auto* rule = menu.addSeparator();
  auto* group = new QActionGroup(&menu);
  const auto add = [&](const char* name, const QString& text, double size) {
    auto* a = menu.addAction(text);
    a->setObjectName(name), a->setCheckable(true);
    group->addAction(a);
    connect(a, &QAction::triggered, this, [this, size] { document_.show_points(size); });
    connect(&menu, &QMenu::aboutToShow, a, [this, a, rule, size] {
      a->setVisible(document_.shot().brings(FlowKind::liquid));
      rule->setVisible(a->isVisible());
      a->setChecked(document_.shown().point_size == size);
    });
  };
  add("as_skin", tr("Liquid with its skin"), 0);
  add("as_small_points", tr("Liquid as small points"), small_points);
  add("as_large_points", tr("Liquid as large points"), large_points);
}

std::shared_ptr<const LitFrame> Viewport::smoke() const {
  return document_.stage() == Stage::set ? nullptr : frames_.current().smoke;
}

std::shared_ptr<const std::vector<PicturePiece>> Viewport::pieces() const {
  const Analysis& a = analyst_.now();
  if (document_.stage() == Stage::set && document_.solver_view() && a.solver_pieces)
    return at_playhead(a.solver_pieces);
  if (document_.stage() == Stage::set)
    return coloured(at_playhead((moving_ || held_) && a.coarse_pieces ? a.coarse_pieces : a.drawn_pieces));
  // Smoke is seen in the pieces that it was made in, as it will be delivered.
  const auto& made_in = frames_.current().pieces;
  return coloured(made_in ? made_in : at_playhead(a.pieces));
}

/// Pieces in the colours of the shot as it is now.
std::shared_ptr<const std::vector<PicturePiece>> Viewport::coloured(
    const std::shared_ptr<const std::vector<PicturePiece>>& pieces) const {
  if (!pieces) return pieces;
  auto now = std::make_shared<std::vector<PicturePiece>>(*pieces);
  bool any = false;
  for (PicturePiece& p : *now)
    if (const Piece* piece = document_.shot_now().piece(p.id)) {
      const auto color = color_of(document_.shot_now(), *piece);
      any = any || color != p.color;
      p.color = color;
    }
  if (!any) return pieces;
  if (!coloured_ || *coloured_ != *now) coloured_ = now;
  return coloured_;
}

/// Pieces as they stand at the playhead.
std::shared_ptr<const std::vector<PicturePiece>> Viewport::at_playhead(
    const std::shared_ptr<const std::vector<PicturePiece>>& pieces) const {
  if (!pieces) return pieces;
  const Shot& now = document_.shot_now();
  auto moved = std::make_shared<std::vector<PicturePiece>>(*pieces);
  bool any = false;
  for (PicturePiece& p : *moved)
    if (const Piece* piece = now.piece(p.id)) try {
        const Pose pose = pose_of(now, *piece);
        any = any || !(pose == p.pose);
        p.pose = pose;
      } catch (const Fault&) {  // the checks say what it is
      }
  if (!any) return pieces;
  if (!placed_ || *placed_ != *moved) placed_ = moved;
  return placed_;
}

Look Viewport::look() const {
  const Look& l = document_.shot_now().look;
  const bool plain = document_.stage() == Stage::set || frames_.current().quantity != Quantity::none;
  if (!plain) return l;
  Look out = plain_look(l);
  constexpr double for_solids = -1;  // stops: they are brighter than smoke
  if (document_.stage() == Stage::set && !document_.solver_view())
    out.exposure += for_solids, out.solid = {0.11, 0.12, 0.125};
  return out;
}

Camera Viewport::camera_for(const QSize& size) const {
  Camera c = document_.camera();
  const Film& f = document_.shot().film;
  const double film = double(f.width) / f.height,
               here = double(std::max(1, size.width())) / std::max(1, size.height());
  if (here > film) c.focal *= film / here;
  return c;
}

QRectF Viewport::film_frame() const {
  const Film& f = document_.shot().film;
  const double film = double(f.width) / f.height;
  const QSizeF s = QSizeF(film, 1).scaled(size(), Qt::KeepAspectRatio);
  return {(width() - s.width()) / 2, (height() - s.height()) / 2, s.width(), s.height()};
}

QPointF Viewport::to_screen(const Vec3d& p) const {
  const View view(camera_for(size()), double(width()) / std::max(1, height()));
  const Vec3f q = view.project(to<float>(p));
  if (q.z <= 0) return {-1e6, -1e6};
  return {(q.x * 0.5 + 0.5) * width(), (0.5 - q.y * 0.5) * height()};
}

void Viewport::refresh() {
  for (int i = 0; i < 3; ++i) stage_buttons_[i]->setChecked(int(document_.stage()) == i);
  follow_->setVisible(document_.pinned());
  const bool own = document_.own_view().has_value();
  keep_->setVisible(own), back_->setVisible(own);
  frame_->setEnabled(analyst_.now().ok);
  trace_->setVisible(document_.stage() == Stage::picture && runs_.chosen() && !comparing());
  trace_->setChecked(document_.traced());
  focus_->setVisible(document_.stage() == Stage::picture && !comparing());
  if (focus_->isHidden()) focus_->setChecked(false);
  lines_->setVisible(document_.stage() == Stage::picture);
  as_solver_->setVisible(document_.stage() == Stage::set);
  normals_->setVisible(document_.stage() == Stage::set);
  update_labels();
  resizeEvent(nullptr);
  end_compare_->setVisible(comparing());
  Canvas::Scene scene{smoke(), pieces(), comparing()};
  if (scene.compares)
    scene.smoke_before = before_.current().smoke, scene.pieces_before = before_.current().pieces;
  scene.look = look(), scene.camera = camera_for(size()), scene.moving = moving_ || document_.playing();
  scene.traced = traced();
  canvas_->show_scene(scene);
}

std::optional<Canvas::Traced> Viewport::traced() const {
  const Run* run = runs_.chosen();
  if (!document_.traced() || document_.stage() != Stage::picture || comparing() || !run || !frames_.ready() ||
      !frames_.current().walls)
    return std::nullopt;
  const int frame = frames_.current_frame();
  Canvas::Traced t{run->stored_frame(frame), run->folder.string() + " " + run->made, frames_.current().walls,
                   seen_as(run->shot, document_.shot()), frame};
  // With its tracks the camera moves while the shutter is open; who looks around looks from one place.
  const Camera seen = camera_for(size());
  if (document_.own_view())
    t.shot.camera = seen;
  else
    t.shot.camera.focal = seen.focal, t.shot.camera.tracks.erase("focal_length");
  if (document_.shot().film.samples > 0) t.samples = document_.shot().film.samples;
  return t;
}

void Viewport::update_labels() {
  QString left, right;
  const Run* run = runs_.chosen();
  if (document_.stage() == Stage::set) {
    left =
        document_.shot().brings(FlowKind::liquid)
            ? tr("Click on a piece to select it, drag its handles or a blue arrow, the stage to look around.")
            : tr("Click on a piece to select it, drag its handles, or the stage to look around.");
    if (document_.solver_view() && analyst_.now().solver_pieces) {
      QStringList words;
      for (const std::string& w : analyst_.now().solver_words) words << QString::fromStdString(w);
      left = words.isEmpty() ? tr("Nothing blocks, holds or drains.") : words.join(" · ");
    } else if (gizmo())
      left = tr("Drag the handles; Control snaps, Shift rests it on what is under the pointer.");
    const Analysis& a = analyst_.now();
    if (!a.ok && !a.checks.empty()) left = QString::fromStdString(a.checks.front().text);
    if (analyst_.now().ok)
      right = tr("cells of %1")
                  .arg(QString::fromStdString(format_quantity(analyst_.now().cell_size, Unit::length)));
  } else if (!run || run->frames.empty()) {
    left = runs_.state() == Runs::State::idle ? tr("No frames yet: press Run to let it flow.")
                                              : tr("Preparing the first frame …");
  } else {
    const int shown = frames_.current_frame();
    left = !shown                                    ? tr("Loading …")
           : document_.frame() > run->newest_frame() ? tr("Frame %1, the newest so far").arg(shown)
                                                     : tr("Frame %1").arg(shown);
    const FrameRecord* record = nullptr;
    record = run->record(std::min(document_.frame(), run->newest_frame()));
    if (const int n = frames_.current().one_in; n > 1) left += tr(" · one of %1 points").arg(n);
    if (frames_.makes_skin()) left += tr(" · making the skin …");
    if (canvas_->traced() > 0) left += tr(" · %1 paths a pixel").arg(canvas_->traced());
    if (record && document_.stage() == Stage::fluid) {
      double fastest = 0;
      QStringList flows;
      for (const FlowRecord& flow : record->flows) {
        flows << QString::fromStdString(in_words(flow) + ", " + losses_in_words(flow));
        fastest = std::max(fastest, flow.max_speed);
      }
      right = flows.join(tr("  ·  "));
      if (!legend_end())
        left += tr(" · fastest %1").arg(QString::fromStdString(format_quantity(fastest, Unit::speed)));
    }
  }
  if (focus_->isChecked()) left = tr("Click on what is to be sharp.");
  if (!canvas_->has_gl())
    left += tr("  ·  Drawn by the processor: OpenGL is missing (%1).").arg(canvas_->missing_gl());
  left_->setText(left), right_->setText(right);
  left_->adjustSize(), right_->adjustSize();
  shows_->setVisible(document_.stage() == Stage::fluid && run && !run->frames.empty());
  shows_->setText(tr(quantity_names[int(document_.quantity())].name));
  shows_->adjustSize();
  shows_->move(12, height() - shows_->height() - 8);
  const int y = shows_->geometry().center().y() - left_->height() / 2;
  int x = shows_->isHidden() ? 14 : shows_->geometry().right() + 12;
  x = std::max(x, legend_end() + 22);
  left_->move(x, y);
  right_->move(width() - right_->width() - 14,
               x + left_->width() + right_->width() + 30 > width() ? y - 20 : y);
}

void Viewport::resizeEvent(QResizeEvent* e) {
  if (e) canvas_->setGeometry(rect());
  canvas_->lower();
  stages_->adjustSize();
  stages_->move(12, 12);
  // From the right, in as many rows as it takes; what is always there stays where it is.
  int x = width() - 12, y = 14;
  for (QPushButton* b : {frame_, trace_, as_solver_, normals_, focus_, lines_, keep_, back_, end_compare_}) {
    b->adjustSize();
    if (b->isHidden()) continue;
    const int least = y < stages_->geometry().bottom() ? stages_->geometry().right() + 12 : 12;
    if (x - b->width() < least) x = width() - 12, y += b->height() + 6;
    x -= b->width();
    b->move(x, y);
    x -= 8;
  }
  if (e) update_labels();
}

QRect Viewport::legend_bar() const {
  const int left = document_.stage() == Stage::set ? width() - 260 : shows_->geometry().right() + 12;
  return {left, shows_->geometry().center().y() - (document_.stage() == Stage::set ? 30 : 5), legend_width,
          10};
}

QString Viewport::legend_range(const Frames& frames) const {
  const Frames::View& v = frames.current();
  const QuantityName& q = quantity_names[int(v.quantity)];
  const bool measured = v.quantity != Quantity::none && v.quantity != Quantity::liquid;
  if (!measured || !v.smoke || v.quantity != document_.quantity()) return {};
  return tr("0 – %1").arg(QString::fromStdString(format_quantity(v.most, q.unit, 2)));
}

std::vector<std::pair<QString, Color>> Viewport::legend_names(const Frames& frames) const {
  std::vector<std::pair<QString, Color>> out;
  const Frames::View& v = frames.current();
  if (v.quantity != Quantity::liquid || v.quantity != document_.quantity()) return out;
  const std::vector<Fluid>& all = document_.shot().fluids;
  for (size_t i = 0; i < all.size(); ++i)
    if (all[i].as<Liquid>())
      out.emplace_back(QString::fromStdString(all[i].name), color_of_number(int(i)));
  return out;
}

constexpr int legend_gap = 14;

int Viewport::legend_end() const {
  const QString range = legend_range(frames_);
  if (!range.isEmpty()) return legend_bar().right() + 12 + fontMetrics().horizontalAdvance(range);
  int x = 0;
  for (const auto& [name, color] : legend_names(frames_))
    x = (x ? x + legend_gap : legend_bar().left()) + 16 + fontMetrics().horizontalAdvance(name);
  return x;
}

namespace {

/// A row of colours as the picture shows them, which go through its exposure.
QImage as_shown(const std::vector<Color>& row) {
  const int n = int(row.size());
  Image strip{n, 1, {}};
  const float light = float(std::exp2(plain_look({}).exposure));
  for (const Color& c : row)
    for (const double v : {c.r, c.g, c.b}) strip.rgb.push_back(float(v) * light);
  const auto bytes = display_bytes(strip);
  return QImage(bytes.data(), n, 1, 3 * n, QImage::Format_RGB888).copy();
}

}  // namespace

/// The legend of false colours.
void Viewport::paint_legend(QPainter& p) {
  const bool of_solver =
      document_.stage() == Stage::set && document_.solver_view() && analyst_.now().solver_pieces;
  const QString range =
      of_solver ? tr("0 – %1 off")
                      .arg(QString::fromStdString(format_quantity(analyst_.now().cell_size, Unit::length, 2)))
      : document_.stage() == Stage::set ? QString()
                                        : legend_range(frames_);
  p.setPen(QColor(0xF3, 0xF1, 0xEC));
  QRect bar = legend_bar();
  if (document_.stage() == Stage::fluid)
    for (const auto& [name, color] : legend_names(frames_)) {
      p.drawImage(QRect(bar.left(), bar.top(), 10, 10), as_shown({color}));
      bar.moveLeft(bar.left() + 16);
      p.drawText(QPoint(bar.left(), bar.center().y() + fontMetrics().ascent() / 2), name);
      bar.moveLeft(bar.left() + fontMetrics().horizontalAdvance(name) + legend_gap);
    }
  if (range.isEmpty()) return;
  static const QImage colors = [] {
    std::vector<Color> strip;
    for (int i = 0; i < legend_width; ++i) strip.push_back(ramp((i + 0.5) / legend_width));
    return as_shown(strip);
  }();
  p.drawImage(bar, colors);
  p.drawText(QPoint(bar.right() + 12, bar.center().y() + fontMetrics().ascent() / 2), range);
}

bool Viewport::comparing() const { return document_.stage() != Stage::set && runs_.compared(); }

void Viewport::set_split(double split) {
  split_ = std::clamp(split, 0.02, 0.98);
  canvas_->set_split(split_);
}

bool Viewport::at_split(const QPointF& p) const {
  return comparing() && std::abs(p.x() - split_ * width()) < 8;
}

/// The split of a comparison, the names of both runs, and their changes.
void Viewport::paint_split(QPainter& p) {
  const double x = std::round(split_ * width());
  p.setPen(QPen(QColor(251, 250, 247, 200), 1.5));
  p.drawLine(QPointF(x, 0), QPointF(x, height()));
  p.setBrush(QColor(251, 250, 247));
  p.drawEllipse(QPointF(x, height() / 2.0), 5, 5);
  const auto label = [&](const QString& text, double y, double from_line) {  // -1 left, 1 right, 0 across
    const double w = p.fontMetrics().horizontalAdvance(text) + 20, h = 26;
    double left = from_line < 0 ? x - w - 8 : from_line > 0 ? x + 8 : x - w / 2;
    left = std::clamp(left, 8.0, std::max(8.0, width() - w - 8));
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(25, 30, 30, 200));
    p.drawRoundedRect(QRectF(left, y, w, h), 6, 6);
    p.setPen(QColor(0xF3, 0xF1, 0xEC));
    p.drawText(QRectF(left, y, w, h), Qt::AlignCenter, text);
  };
  const auto name = [&](const Run& run, const Frames& frames) {
    QString text = tr("Run %1").arg(run.number());
    if (frames.current_frame() && !frames.ready()) text += tr(" · frame %1").arg(frames.current_frame());
    // Each has a range of its own.
    if (const QString range = legend_range(frames); !range.isEmpty()) text += " · " + range;
    return text;
  };
  const Run &before = *runs_.compared(), *after = runs_.chosen();
  if (!after) return;
  label(name(before, before_), 58, -1);
  label(name(*after, frames_), 58, 1);
  const auto changed = simulation_changes(before.shot, after->shot);
  QStringList lines;
  for (const Change& c : changed) lines << QString::fromStdString(c.text);
  const qsizetype most = 3;
  if (lines.size() > most) lines = lines.mid(0, most) << tr("and %1 more").arg(lines.size() - most);
  if (before.cell_size != after->cell_size && changed.empty())
    lines << tr("cells of %1 → %2")
                 .arg(QString::fromStdString(format_quantity(before.cell_size, Unit::length)),
                      QString::fromStdString(format_quantity(after->cell_size, Unit::length)));
  if (lines.isEmpty()) lines << tr("Nothing changed");
  label(lines.join(" · "), height() - 72, 0);
}

void Viewport::paint_overlay(QPainter& p) {
  p.setRenderHint(QPainter::Antialiasing);
  const Stage stage = document_.stage();
  if (stage == Stage::picture) {
    QPainterPath outside;
    outside.addRect(rect());
    QPainterPath frame;
    frame.addRect(film_frame());
    p.fillPath(outside - frame, QColor(40, 42, 42, 170));
  }
  if (comparing()) paint_split(p);
  paint_legend(p);
  if (stage == Stage::picture) return paint_guides(p);
  paint_forces(p);
  paint_handles(p);
  paint_set(p);
}

void Viewport::mousePressEvent(QMouseEvent* e) {
  last_ = pressed_ = e->position();
  if (focus_->isChecked() && e->button() == Qt::LeftButton) return focus_at(last_);
  splitting_ = e->button() == Qt::LeftButton && at_split(last_);
  const auto handle = e->button() == Qt::LeftButton ? handle_at(last_) : std::nullopt;
  held_handle_ = handle ? handle->id : std::string();
  ++drags_;
  held_.reset();
  if (e->button() == Qt::LeftButton && !handle && !splitting_)
    hold_pieces(last_, e->modifiers() & Qt::ControlModifier);
}

void Viewport::mouseMoveEvent(QMouseEvent* e) {
  const QPointF d = e->position() - last_;
  pointer_ = e->position();
  if (e->buttons() == Qt::NoButton) {
    if (document_.step() == 3) canvas_->update();  // test points fly from it
    setCursor(focus_->isChecked()       ? Qt::CrossCursor
              : at_split(e->position()) ? Qt::SplitHCursor
              : handle_at(e->position()) || !dot_at(e->position()).empty() ||
                      (gizmo() && gizmo()->part_at(e->position()) != Gizmo::Part::none)
                  ? Qt::SizeAllCursor
                  : Qt::OpenHandCursor);
    return;
  }
  last_ = e->position();
  if (splitting_) return set_split(last_.x() / std::max(1, width()));
  if (!held_handle_.empty()) {
    drag_handle(e->position(), d, e->modifiers() & Qt::ControlModifier);
  } else if (held_) {
    if (!is_click(last_) || (e->modifiers() & Qt::ShiftModifier)) drag_pieces(last_, e->modifiers());
  } else if (e->buttons() & Qt::LeftButton && !(e->modifiers() & Qt::ShiftModifier)) {
    orbit(-d.x() * 0.006, d.y() * 0.006);
  } else {
    pan(d.x(), d.y());
  }
}

void Viewport::mouseReleaseEvent(QMouseEvent* e) {
  const bool on_stage = !held_ && held_handle_.empty() && !splitting_;
  if (on_stage && e->button() == Qt::LeftButton && document_.stage() == Stage::set && is_click(e->position()))
    pick(e->position(), e->modifiers() & Qt::ControlModifier);
  if (e->button() == Qt::RightButton && document_.stage() == Stage::set && is_click(e->position()) &&
      !handle_at(e->position()))
    if (const auto seen = what_is_at(e->position()); seen && document_.shot().piece(seen->id))
      open_menu(seen->id, seen->at, e->globalPosition().toPoint());
  held_.reset(), held_handle_.clear(), splitting_ = false;
  refresh();
}

void Viewport::wheelEvent(QWheelEvent* e) { zoom(std::pow(0.999, e->angleDelta().y())); }

void Viewport::keyPressEvent(QKeyEvent* e) {
  const bool moves_split = comparing() && e->modifiers() & Qt::ControlModifier;
  switch (e->key()) {
    case Qt::Key_Left:
      if (moves_split) return set_split(split_ - 0.05);
      return e->modifiers() & Qt::ShiftModifier ? pan(20, 0) : orbit(-0.1, 0);
    case Qt::Key_Right:
      if (moves_split) return set_split(split_ + 0.05);
      return e->modifiers() & Qt::ShiftModifier ? pan(-20, 0) : orbit(0.1, 0);
    case Qt::Key_Up:
      return e->modifiers() & Qt::ShiftModifier ? pan(0, 20) : orbit(0, 0.06);
    case Qt::Key_Down:
      return e->modifiers() & Qt::ShiftModifier ? pan(0, -20) : orbit(0, -0.06);
    case Qt::Key_Plus:
      return zoom(0.9);
    case Qt::Key_Minus:
      return zoom(1.1);
    case Qt::Key_C:
      return frame_selected();
    case Qt::Key_Delete:
      return remove_selected();
    case Qt::Key_D:
      if (e->modifiers() & Qt::ControlModifier) return duplicate_selected();
      return QWidget::keyPressEvent(e);
    case Qt::Key_Escape:
      return document_.select({});
    default:
      QWidget::keyPressEvent(e);
  }
}

void Viewport::orbit(double dx, double dy) {
  Camera c = document_.camera();
  c.azimuth = std::remainder(c.azimuth + dx, 2 * M_PI);
  c.elevation = std::clamp(c.elevation + dy, -1.5, 1.5);
  moving_ = true, rest_.start();
  document_.look_from(c);
}

void Viewport::pan(double dx, double dy) {
  Camera c = document_.camera();
  const View view(camera_for(size()), double(width()) / std::max(1, height()));
  const double scale = 2 * view.half_width * c.distance / width();
  c.target += to<double>(view.right) * (-dx * scale) + to<double>(view.up) * (dy * scale);
  moving_ = true, rest_.start();
  document_.look_from(c);
}

void Viewport::zoom(double factor) {
  Camera c = document_.camera();
  c.distance = std::clamp(c.distance * factor, 0.02, 1e3);
  moving_ = true, rest_.start();
  document_.look_from(c);
}
