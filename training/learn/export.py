"""Writes the averaged weights of a training as ONNX with 16-bit floats, batch norms folded in (models/README.md)."""
import argparse

import numpy as np
import onnx
import torch
from onnx import numpy_helper

from net import Net, folded


def narrowed(path):
    model = onnx.load(path)
    for tensor in model.graph.initializer:
        values = numpy_helper.to_array(tensor)
        if values.dtype == np.float32 and values.size > 64:
            tensor.CopyFrom(numpy_helper.from_array(values.astype(np.float16), tensor.name))
    onnx.save(model, path)


def main():
    ask = argparse.ArgumentParser(description=__doc__)
    ask.add_argument("kept", help="what the training keeps, NAME.pt")
    ask.add_argument("out", help="NAME.onnx")
    ask.add_argument("--size", type=int, nargs=2, metavar=("WIDTH", "HEIGHT"), help="for this size only; needed for context")
    ask.add_argument("--last", action="store_true", help="the last weights instead of the averaged ones")
    how = ask.parse_args()
    kept = torch.load(how.kept)
    weights = kept["net"] if how.last else kept["averaged"]
    shape = kept.get("shape", {})
    outputs = weights["head.bias"].shape[0]
    net = Net(outputs, **shape)
    net.load_state_dict(weights)
    net = folded(net)
    width, height = how.size or (192, 192)
    free = {} if how.size else {name: {2: "height", 3: "width"} for name in ("picture", "maps")}
    torch.onnx.export(net, torch.zeros(1, 3, height, width), how.out, opset_version=11, input_names=["picture"],
                      output_names=["maps"], dynamic_axes=free)
    narrowed(how.out)
    print(f"{how.out}: learned from {kept['seen']} pictures")


if __name__ == "__main__":
    main()
