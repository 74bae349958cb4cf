// Background work.
#pragma once
#include <sys/resource.h>
#include <tbb/task_scheduler_observer.h>
#include <unistd.h>
#include <QThreadPool>

/// A thread pool of its own: Qt's pool also serves painting, which must not wait.
inline QThreadPool& beside() {
  struct Pool : QThreadPool {
    Pool() { setMaxThreadCount(16); }  // no task waits for another to start
  };
  static Pool pool;
  return pool;
}

/// Lowers the priority of this thread and its helpers below the window's.
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
