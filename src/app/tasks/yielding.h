/// Threads that compute let the window go first.
#pragma once

#include <functional>

namespace hscaffold::app {

/// This thread, and all that share out its work, run where the window has nothing to do: a key or a movement of the
/// pointer never waits for its turn behind them. For good, and each thread for itself.
void yieldToTheHand();

/// Runs `work`, from which this thread shares out nothing: what it does, it does by itself. For the interface's, which
/// would wait for those that let it go first.
int workingAlone(const std::function<int()>& work);

/// Qt shares out large fills among the threads of its common pool and waits for them, here as in threads that yield.
/// This begins them, and keeps them: they go as first as the thread that calls this, the interface's, before any other
/// paints. (A thread is as first as the one that began it; usually they end after a while, and whoever paints next
/// begins new ones.)
void beginPainters();

}  // namespace hscaffold::app
