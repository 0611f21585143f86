/// Plain convolutions of networks by oneDNN, inside OpenCV's dnn module, which runs everything else: several times
/// faster than its own.
#pragma once

namespace onnx {
class GraphProto;
}

namespace hscaffold::networks {

/// Marks the convolutions of a graph that are computed here: two-dimensional ones of one group without dilation, whose
/// weights are in the graph and whose padding is given as numbers. Others stay with OpenCV. Before it is read.
void takeConvolutions(onnx::GraphProto& graph);

}  // namespace hscaffold::networks
