/// What goes wrong in a job, in words.
#pragma once

#include <new>
#include <string>

#include "core/problem.h"

namespace hscaffold::app {

/// What a call throws; empty if it went well. `Cancelled` goes on to the caller.
template <typename Call>
std::string troubleIn(Call&& call) {
  try {
    call();
  } catch (const Cancelled&) {
    throw;
  } catch (const std::bad_alloc&) {
    return "There is not enough memory for this.";
  } catch (const std::exception& error) {
    return error.what();
  }
  return {};
}

}  // namespace hscaffold::app
