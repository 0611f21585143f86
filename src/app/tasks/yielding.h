/// Threads that compute let the window go first.
#pragma once

namespace hscaffold::app {

/// This thread, and all that share out its work, run where the window has nothing to do: a key or a movement of the
/// pointer never waits for its turn behind them. For good, and each thread for itself.
void yieldToTheHand();

}  // namespace hscaffold::app
