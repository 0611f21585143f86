/// What is looked at before a network is handed to the library that runs it, which takes a file at its word.
#pragma once

#include <string>

namespace onnx {
class GraphProto;
}

namespace hscaffold::networks {

/// Weights have as many numbers as their shapes say, strides, windows and groups are at least 1, offsets fit their
/// weights; every part is made once and before it is used. @throws Problem (badInput) that names the part.
void checkGraph(const onnx::GraphProto& graph, const std::string& where);
/// The first part of a kind that the library does not read; empty if there is none.
std::string partNotKnown(const onnx::GraphProto& graph);

}  // namespace hscaffold::networks
