/// Plain convolutions of networks by oneDNN, inside OpenCV's dnn module, which runs everything else: several times
/// faster than its own.
#pragma once

#include "core/problem.h"

namespace onnx {
class GraphProto;
}

namespace hscaffold::networks {

/// Marks the convolutions of a graph that are computed here: two-dimensional ones of one group without dilation, whose
/// weights are in the graph and whose padding is given as numbers. Others stay with OpenCV. Before it is read.
void takeConvolutions(onnx::GraphProto& graph);
/// While it lives, convolutions on this thread look at `stop` before they begin, and throw Cancelled.
class StopsConvolutions {
 public:
  explicit StopsConvolutions(const StopToken& stop);
  StopsConvolutions(const StopsConvolutions&) = delete;
  StopsConvolutions& operator=(const StopsConvolutions&) = delete;
  ~StopsConvolutions();
};

}  // namespace hscaffold::networks
