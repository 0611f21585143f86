/// A job as a request brings it: a recipe and the files that it names.
#pragma once

#include <map>
#include <string>
#include <string_view>

#include "service/job_desk.h"

namespace hscaffold {

struct AskedJob {
  EngineJob job;
  std::string digest;  ///< of all that was asked for
};
/// @param files  by name; one of them is "recipe.json" @param info  of the engine that is to make it
/// @throws Refused
AskedJob askedJob(const std::map<std::string, std::string_view>& files, const ServiceLimits& limits,
                  const EngineInfo& info);

}  // namespace hscaffold
