// Work beside the window.
#pragma once
#include <sys/resource.h>
#include <tbb/task_scheduler_observer.h>
#include <unistd.h>
#include <QThreadPool>

/// The threads that it runs on: those of Qt's own pool help to paint, which must not wait for it.
inline QThreadPool& beside() {
  struct Pool : QThreadPool {
    Pool() { setMaxThreadCount(16); }  // no work waits for other work to begin
  };
  static Pool pool;
  return pool;
}

/// Lets the window go first where this thread, and those that help it, want the same core.
inline void step_back() {
  static constexpr auto back = [] { setpriority(PRIO_PROCESS, id_t(gettid()), 10); };
  struct Helpers : tbb::task_scheduler_observer {
    Helpers() { observe(true); }
    ~Helpers() override { observe(false); }
    void on_scheduler_entry(bool is_helper) override {
      if (is_helper) back();
    }
  };
  back();
  static thread_local Helpers helpers;
}
