/// Memory that work has left behind.
#pragma once

namespace hscaffold::app {

/// Pages of what was freed go back to the system. The allocator keeps those between other things otherwise: after an
/// hour of maps and proofs as much again as is in use. Any thread; takes some tens of milliseconds.
void giveBackSpareMemory();

}  // namespace hscaffold::app
