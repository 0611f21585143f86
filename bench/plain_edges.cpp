// The ten lines that a general library needs from a picture file to an edge map: what `hscaffold map edges` is measured
// against. usage: plain-edges IN OUT
#include <opencv2/imgcodecs.hpp>
#include <opencv2/imgproc.hpp>

int main(int argc, char** argv) {
  if (argc != 3) return 2;
  cv::Mat grey = cv::imread(argv[1], cv::IMREAD_GRAYSCALE), soft, edges;
  cv::GaussianBlur(grey, soft, {}, 1.4);
  cv::Canny(soft, edges, 40, 110, 3, true);
  return cv::imwrite(argv[2], edges) ? 0 : 1;
}
