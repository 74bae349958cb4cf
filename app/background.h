// Work beside the window.
#pragma once
#include <sys/resource.h>
#include <unistd.h>

/// Lets the window go first where this thread, and those that it starts, want the same core.
inline void step_back() { setpriority(PRIO_PROCESS, id_t(gettid()), 10); }
