"""The shape of both networks: a U of residual blocks with additive skips and nearest upsampling."""
import torch
from torch import nn


def step(inner, outer, stride=1):
    return nn.Sequential(nn.Conv2d(inner, outer, 3, stride, 1, bias=False), nn.BatchNorm2d(outer), nn.ReLU(inplace=True))


class Block(nn.Module):
    def __init__(self, width):
        super().__init__()
        self.first = step(width, width)
        self.second = nn.Sequential(nn.Conv2d(width, width, 3, 1, 1, bias=False), nn.BatchNorm2d(width))

    def forward(self, x):
        return torch.relu(x + self.second(self.first(x)))


class Net(nn.Module):
    """`stem`: widths of the stride-2 steps; `widths`: of the levels below; answers at the stride of the stem."""

    def __init__(self, outputs, stem=(24, 40), widths=(64, 96, 128), context=False):
        super().__init__()
        stem, widths = tuple(stem), tuple(widths)
        self.stem = nn.Sequential(*[step(a, b, 2) for a, b in zip((3,) + stem, stem)])
        self.top = Block(stem[-1])
        levels = (stem[-1],) + widths
        self.down = nn.ModuleList([nn.Sequential(step(a, b, 2), Block(b), Block(b)) for a, b in zip(levels, widths)])
        self.context = context
        if context:
            self.spread = nn.Conv2d(2 * widths[-1], widths[-1], 1)
        self.narrow = nn.ModuleList([nn.Conv2d(b, a, 1) for a, b in zip(levels, widths)])
        self.up = nn.ModuleList([Block(a) for a in levels[:-1]])
        self.head = nn.Conv2d(stem[-1], outputs, 1)

    def forward(self, x):
        x = self.top(self.stem(x))
        levels = [x]
        for down in self.down:
            x = down(x)
            levels.append(x)
        if self.context:
            mean = x.mean((2, 3), keepdim=True)
            most = x.amax((2, 3), keepdim=True)
            # Spread over all places by name: OpenCV adds only what has one size.
            all_over = nn.functional.interpolate(self.spread(torch.cat([mean, most], 1)),
                                                 scale_factor=(float(x.shape[2]), float(x.shape[3])), mode="nearest")
            x = torch.relu(x + all_over)
        for i in range(len(self.down) - 1, -1, -1):
            x = nn.functional.interpolate(self.narrow[i](x), scale_factor=2, mode="nearest")
            x = self.up[i](torch.relu(x + levels[i]))
        return self.head(x)


def folded(net):
    """The same network with its batch norms taken into the convolutions before them; for answering only."""
    net = net.eval()
    for part in net.modules():
        if not isinstance(part, nn.Sequential):
            continue
        names = list(part._modules)
        for a, b in zip(names, names[1:]):
            conv, norm = part._modules[a], part._modules[b]
            if isinstance(conv, nn.Conv2d) and isinstance(norm, nn.BatchNorm2d):
                part._modules[a] = nn.utils.fusion.fuse_conv_bn_eval(conv, norm)
                part._modules[b] = nn.Identity()
    return net


def begin_from(net, path, pictures):
    """Weights of an exported network as a beginning: its folded convolutions, and batch norms that change nothing yet, also
    while it learns: they have the mean and spread that the pictures (B x 3 x H x W) give. A head with other outputs begins
    anew."""
    import onnx
    from onnx import numpy_helper
    graph = onnx.load(path).graph
    values = {t.name: numpy_helper.to_array(t).astype("float32") for t in graph.initializer}
    weights = iter([values[name] for node in graph.node if node.op_type == "Conv" for name in node.input[1:3]])
    # In the order in which they are asked, as in the file.
    order = []
    hooks = [m.register_forward_hook(lambda m, *_: order.append(m)) for m in net.modules() if isinstance(m, (nn.Conv2d, nn.BatchNorm2d))]
    with torch.no_grad():
        net.eval()(torch.zeros(1, 3, 128, 160))
    for hook in hooks:
        hook.remove()
    with torch.no_grad():
        for i, part in enumerate(order):
            if not isinstance(part, nn.Conv2d):
                continue
            weight, bias = next(weights), next(weights)
            if weight.shape != part.weight.shape:
                continue
            part.weight.copy_(torch.from_numpy(weight))
            if part.bias is not None:
                part.bias.copy_(torch.from_numpy(bias))
            else:
                norm = order[i + 1]
                norm.running_mean.zero_()
                norm.running_var.fill_(1 - norm.eps)
                norm.weight.fill_(1)
                norm.bias.copy_(torch.from_numpy(bias))
        came = {}
        norms = [m for m in net.modules() if isinstance(m, nn.BatchNorm2d)]
        hooks = [m.register_forward_hook(lambda m, given, _: came.__setitem__(m, given[0])) for m in norms]
        net.eval()(pictures)
        for hook in hooks:
            hook.remove()
        for norm in norms:
            mean, spread = came[norm].mean((0, 2, 3)), came[norm].var((0, 2, 3))
            norm.running_mean.copy_(mean)
            norm.running_var.copy_(spread)
            norm.weight.copy_((spread + norm.eps).sqrt())
            norm.bias.add_(mean)
    return net.train()


class Averaged:
    """Running mean of a network's weights, which answers better than the last ones."""

    def __init__(self, net, keep=0.998):
        self.keep, self.step = keep, 0
        self.values = {k: v.detach().clone() for k, v in net.state_dict().items()}

    def take(self, net):
        self.step += 1
        keep = min(self.keep, (1 + self.step) / (10 + self.step))
        with torch.no_grad():
            for k, v in net.state_dict().items():
                if v.dtype.is_floating_point:
                    self.values[k].mul_(keep).add_(v, alpha=1 - keep)
                else:
                    self.values[k].copy_(v)
