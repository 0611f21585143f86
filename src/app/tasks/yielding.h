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

}  // namespace hscaffold::app
