// Impatient hands on the real window: whatever is pressed, typed and dragged, in whatever order and while
// the disk changes beneath, nothing dies and the shot stays one that can be saved and read.
// EASY_POUR_HANDS=N does N things instead of a few hundred, EASY_POUR_SEED=N others.
#include <QAction>
#include <QComboBox>
#include <QMenu>
#include <QMessageBox>
#include <QSlider>
#include <QTimer>
#include <random>

#include "app/window_fixture.h"
#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "shot/shot_file.h"
#include "time/time_strip.h"
#include "view/viewport.h"

using namespace pour;

namespace {

int from_environment(const char* name, int usual) {
  const char* text = std::getenv(name);
  return text ? int(whole_number(text, 0, 100000000).value_or(usual)) : usual;
}

class Hands : public Window {
 protected:
  std::mt19937 luck{unsigned(from_environment("EASY_POUR_SEED", 7))};
  std::string last;  // what was done, for the message
  QTimer dialogs;
  QByteArray home = qgetenv("HOME");

  void SetUp() override {
    qputenv("HOME", folder.path().toUtf8());  // the trash is there too
    Window::SetUp();
    // Whatever is asked is answered somehow, or not at all.
    QObject::connect(&dialogs, &QTimer::timeout, window.get(), [this] { answer(); });
    dialogs.start(40);
  }
  void TearDown() override {
    dialogs.stop();
    Window::TearDown();
    window.reset();
    qputenv("HOME", home);
  }

  size_t below(size_t n) { return n ? luck() % n : 0; }
  template <class T>
  T* any(const std::function<bool(T*)>& fits = {}) {
    QList<T*> all;
    for (T* w : window->findChildren<T*>())
      if (w->isVisible() && w->isEnabled() && (!fits || fits(w))) all << w;
    return all.isEmpty() ? nullptr : all[qsizetype(below(size_t(all.size())))];
  }

  void answer() {
    if (auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) {
      const auto actions = menu->actions();
      QAction* a = actions.isEmpty() ? nullptr : actions[qsizetype(below(size_t(actions.size())))];
      menu->close();
      // Later: a timer is not heard while what it started still goes on.
      if (a && a->isEnabled() && below(2)) QTimer::singleShot(0, a, &QAction::trigger);
    } else if (QWidget* popup = QApplication::activePopupWidget()) {
      popup->close();
    } else if (auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget())) {
      const auto buttons = box->buttons();
      buttons[qsizetype(below(size_t(buttons.size())))]->click();
    } else if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget())) {
      below(3) ? dialog->reject() : dialog->accept();
    }
  }

  QPoint spot(QWidget* w) { return {int(below(size_t(w->width()))), int(below(size_t(w->height())))}; }
  void drag(QWidget* w) {
    QTest::mousePress(w, Qt::LeftButton, {}, spot(w));
    for (size_t moves = below(5); moves > 0; --moves) {
      const QPoint to = spot(w);
      QMouseEvent e(QEvent::MouseMove, QPointF(to), w->mapToGlobal(QPointF(to)), Qt::NoButton, Qt::LeftButton,
                    {});
      QApplication::sendEvent(w, &e);
      if (!below(4)) window->document().undo();
      if (!below(6)) window->document().redo();
    }
    QTest::mouseRelease(w, Qt::LeftButton, {}, spot(w));
  }

  void type_something() {
    static const QStringList words{"",  "1e999",           "-5",  "12 cm", "0",   "1-3", "3-1",  "水",
                                   "é", QString(300, 'x'), "0.1", "ARK",   "nan", "1/0", "never"};
    auto* field = any<QLineEdit>();
    if (!field) return;
    last = "types into " + field->objectName().toStdString();
    field->setFocus();
    field->selectAll();
    field->insert(words[qsizetype(below(size_t(words.size())))]);  // keyClicks() knows ASCII alone
    if (below(4)) QTest::keyClick(field, Qt::Key_Return);
  }

  void press_something() {
    auto* button = any<QAbstractButton>();
    if (!button) return;
    last = "presses " + (button->objectName() + button->text()).toStdString();
    QTimer::singleShot(0, button, &QAbstractButton::click);
    QTest::qWait(30);
  }

  void press_a_key() {
    static const std::vector<QKeySequence> keys{
        QKeySequence::Undo,   QKeySequence::Redo,     QKeySequence::Save,   QKeySequence("Space"),
        QKeySequence("Left"), QKeySequence("Right"),  QKeySequence("Home"), QKeySequence("End"),
        QKeySequence("Tab"),  QKeySequence("Ctrl+R"), QKeySequence("+"),    QKeySequence("Shift+Up")};
    QWidget* to = QApplication::focusWidget() ? QApplication::focusWidget() : window.get();
    const QKeySequence key = keys[below(keys.size())];
    last = "key " + key.toString().toStdString();
    QTest::keySequence(to, key);
  }

  void change_the_disk() {
    const fs::path runs = runs_folder(file.toStdString());
    std::vector<fs::path> all;
    std::error_code none;
    for (fs::recursive_directory_iterator i(runs, none), end; !none && i != end; i.increment(none))
      all.push_back(*i);
    if (all.empty()) return;
    const fs::path some = all[below(all.size())];
    last = "breaks " + some.string();
    if (below(2))
      fs::remove_all(some, none);
    else if (fs::is_regular_file(some, none) && some.filename() != "lock")
      fs::resize_file(some, fs::file_size(some, none) / 2, none);
  }

  void do_something() {
    switch (below(12)) {
      case 0:
      case 1:
      case 2:
        return press_something();
      case 3:
        return type_something();
      case 4:
        last = "drags the stage";
        return drag(find<Viewport>("viewport"));
      case 5:
        last = "drags the time strip";
        return drag(find<TimeStrip>("time_strip"));
      case 6:
        if (auto* list = any<QComboBox>()) {
          last = "chooses in " + list->objectName().toStdString();
          list->setFocus();
          QTest::keyClick(list, below(2) ? Qt::Key_Down : Qt::Key_Up);
        }
        return;
      case 7:
        if (auto* slider = any<QSlider>()) {
          last = "slides " + slider->accessibleName().toStdString();
          slider->setValue(int(below(1001)));
        }
        return;
      case 8:
        return change_the_disk();
      case 9:
        last = "waits";
        return QTest::qWait(int(below(150)));
      default:
        return press_a_key();
    }
  }
};

}  // namespace

TEST_F(Hands, BreakNothing) {
  const int things = from_environment("EASY_POUR_HANDS", 250);
  for (int i = 0; i < things; ++i) {
    do_something();
    QTest::qWait(3);
    if (!window->isVisible()) show();  // it was closed
    const Shot& shot = window->document().shot();
    ASSERT_EQ(shot_from_json(shot_to_json(shot), "again"), shot) << "after " << i << ": " << last;
  }
  // Back to where everything began, and it still works.
  while (window->document().can_undo()) window->document().undo();
  window->runs().stop();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000)) << last;
}
