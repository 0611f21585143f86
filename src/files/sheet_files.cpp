#include "files/sheet_files.h"

#include <fmt/format.h>

#include <QBuffer>
#include <QImage>
#include <QPageLayout>
#include <QPageSize>
#include <QPainter>
#include <QPdfWriter>
#include <cmath>
#include <map>
#include <set>

#include "core/image/xml_text.h"
#include "files/csv_text.h"

namespace hscaffold {
namespace {

/// Colours of what is round the pictures.
struct Look {
  QColor ground, text, soft, bar;
};
const Look onScreen{"#242322", "#ece7dd", "#a59f93", "#363533"}, onPaper{"#ffffff", "#1d1c1a", "#5c574e", "#e4e0d8"};
const QColor holdColour("#7fb069"), shiftColour("#e59a3c");

/// What stands under a cell's picture needs so much, pixels.
constexpr int foot = 34;

std::string measuresInWords(const ProofInfo& proof) {
  const auto hold = meanHold(proof);
  std::string words = hold ? fmt::format("hold {:.0f}", *hold) : "hold not measured";
  if (proof.shift) words += fmt::format("  shift {:.0f}", *proof.shift);
  return words;
}

std::string nameOf(const SheetContent& content, const ProofInfo& proof) {
  return content.plan != nullptr ? cellName(*content.plan, proof.cell)
                                 : fmt::format("proof {}, seed {}", proof.number, proof.recipe.brief.seed);
}

QImage pictureOf(const SheetContent& content, const ProofInfo& proof, int width) {
  const Bytes png = content.png(proof.number);
  const QImage image = QImage::fromData(reinterpret_cast<const uchar*>(png.data()), static_cast<int>(png.size()));
  return image.isNull() ? image : image.scaledToWidth(std::min(width, image.width()), Qt::SmoothTransformation);
}

Bytes owned(std::span<const std::byte> bytes) { return {bytes.begin(), bytes.end()}; }

/// Columns and rows, which proof stands where, and what stands at the axes.
struct Grid {
  int columns = 1, rows = 1;
  std::map<std::pair<int, int>, const ProofInfo*> at;  ///< by row and column
  std::vector<std::string> across, down;               ///< empty: no axis
};

Grid gridOf(const SheetContent& content) {
  Grid grid;
  if (content.plan == nullptr || content.plan->axes.empty()) {
    const auto count = std::max<std::size_t>(1, content.proofs.size());
    grid.columns = static_cast<int>(std::ceil(std::sqrt(static_cast<double>(count))));
    grid.rows =
        static_cast<int>((count + static_cast<std::size_t>(grid.columns) - 1) / static_cast<std::size_t>(grid.columns));
    for (std::size_t i = 0; i < content.proofs.size(); ++i)
      grid.at[{static_cast<int>(i) / grid.columns, static_cast<int>(i) % grid.columns}] = content.proofs[i];
    return grid;
  }
  const SheetPlan& plan = *content.plan;
  const int seeds = static_cast<int>(plan.seeds.size());
  grid.columns = plan.across();
  grid.rows = plan.down() * seeds;
  for (int i = 0; i < plan.across(); ++i) grid.across.push_back(valueName(plan.axes[0], static_cast<std::size_t>(i)));
  for (int row = 0; row < grid.rows; ++row) {
    std::string label = plan.axes.size() > 1 ? valueName(plan.axes[1], static_cast<std::size_t>(row / seeds)) : "";
    if (seeds > 1 || plan.axes.size() < 2)
      label += fmt::format("{}seed {}", label.empty() ? "" : "\n", plan.seeds[static_cast<std::size_t>(row % seeds)]);
    grid.down.push_back(label);
  }
  for (const ProofInfo* proof : content.proofs) {
    const CellPlace place = placeOf(plan, proof->cell);
    grid.at[{place.down * seeds + place.seed, place.across}] = proof;
  }
  return grid;
}

/// A picture with its measures under it, and its settings where no axis says them.
void drawCell(QPainter& painter, const QRect& cell, const SheetContent& content, const ProofInfo& proof,
              const QImage& picture, bool named, const Look& look) {
  if (!picture.isNull()) painter.drawImage(cell, picture);
  const auto bar = [&](int y, double share, const QColor& colour) {
    painter.fillRect(QRectF(cell.left(), y, cell.width(), 4), look.bar);
    painter.fillRect(QRectF(cell.left(), y, cell.width() * share / 100, 4), colour);
  };
  if (const auto hold = meanHold(proof)) bar(cell.bottom() + 4, *hold, holdColour);
  if (proof.shift) bar(cell.bottom() + 10, *proof.shift, shiftColour);
  painter.setPen(look.soft);
  const std::string words = measuresInWords(proof) + (named ? "  " + nameOf(content, proof) : std::string());
  painter.drawText(QRect(cell.left(), cell.bottom() + 15, cell.width(), 18), Qt::AlignLeft | Qt::AlignVCenter,
                   painter.fontMetrics().elidedText(QString::fromStdString(words), Qt::ElideRight, cell.width()));
}

}  // namespace

std::string sheetTable(const SheetContent& content) {
  // Guides by id; names may change between proofs.
  std::map<std::string, std::string> guides;
  for (const ProofInfo* proof : content.proofs)
    for (const RecipeGuide& entry : proof->recipe.guides) guides[entry.guide.id] = entry.guide.name;
  std::string out = "proof,settings,seed,steps,guidance";
  for (const auto& [id, name] : guides) out += "," + quoted("hold of " + name);
  out += ",hold,shift,milliseconds,prompt\r\n";
  for (const ProofInfo* proof : content.proofs) {
    const Brief& brief = proof->recipe.brief;
    out += fmt::format("{},{},{},{},{}", proof->number, quoted(nameOf(content, *proof)), brief.seed, brief.steps,
                       brief.guidance);
    for (const auto& [id, name] : guides) {
      const auto hold = proof->holds.find(id);
      out += hold != proof->holds.end() ? fmt::format(",{:.1f}", hold->second) : ",";
    }
    const auto mean = meanHold(*proof);
    out += mean ? fmt::format(",{:.1f}", *mean) : ",";
    out += proof->shift ? fmt::format(",{:.1f}", *proof->shift) : ",";
    out += fmt::format(",{:.0f},{}\r\n", proof->milliseconds, quoted(brief.prompt));
  }
  return out;
}

std::string sheetPage(const SheetContent& content) {
  const Grid grid = gridOf(content);
  pugi::xml_document document;
  const auto say = [](pugi::xml_node in, const char* element, const std::string& words) {
    auto node = in.append_child(element);
    node.text().set(words.c_str());
    return node;
  };
  document.append_child(pugi::node_doctype).set_value("html");
  auto html = document.append_child("html");
  html.append_attribute("lang") = "en";
  auto head = html.append_child("head");
  head.append_child("meta").append_attribute("charset") = "utf-8";
  say(head, "title", content.title);
  say(head, "style",
      "body{background:#242322;color:#ece7dd;font:14px sans-serif;margin:24px}"
      "table{border-spacing:10px}th{font-weight:600;color:#a59f93;white-space:pre-line}"
      "td{vertical-align:top}img{display:block;max-width:100%}small{color:#a59f93}"
      ".bar{height:4px;font-size:0;background:#383633;margin-top:3px}"
      ".hold{background:#7fb069;height:4px}.shift{background:#e59a3c;height:4px}");
  auto body = html.append_child("body");
  say(body, "h1", content.title);
  if (!content.proofs.empty()) {
    const Brief& brief = content.plan != nullptr ? content.plan->base.brief : content.proofs.front()->recipe.brief;
    say(body, "p", brief.prompt);
  }
  auto table = body.append_child("table");
  if (!grid.across.empty()) {
    auto line = table.append_child("tr");
    line.append_child("th");
    for (const std::string& label : grid.across) say(line, "th", label);
  }
  // A bar as long as its number is large. Elements without any content would not be HTML.
  const auto bar = [&](pugi::xml_node in, const char* of, double share) {
    auto whole = in.append_child("div");
    whole.append_attribute("class") = "bar";
    auto part = say(whole, "div", "\xC2\xA0");
    part.append_attribute("class") = of;
    part.append_attribute("style") = fmt::format("width:{:.0f}%", share).c_str();
  };
  for (int row = 0; row < grid.rows; ++row) {
    auto line = table.append_child("tr");
    if (!grid.down.empty()) say(line, "th", grid.down[static_cast<std::size_t>(row)]);
    for (int column = 0; column < grid.columns; ++column) {
      auto cell = line.append_child("td");
      const auto found = grid.at.find({row, column});
      if (found == grid.at.end()) continue;
      const ProofInfo& proof = *found->second;
      QByteArray jpeg;
      QBuffer buffer(&jpeg);
      buffer.open(QIODevice::WriteOnly);
      pictureOf(content, proof, 512).save(&buffer, "JPEG", 88);
      auto picture = cell.append_child("img");
      picture.append_attribute("alt") = nameOf(content, proof).c_str();
      picture.append_attribute("src") = ("data:image/jpeg;base64," + jpeg.toBase64()).constData();
      if (const auto hold = meanHold(proof)) bar(cell, "hold", *hold);
      if (proof.shift) bar(cell, "shift", *proof.shift);
      auto words = say(cell, "small", nameOf(content, proof));
      words.append_child("br");
      words.append_child(pugi::node_pcdata).set_value(measuresInWords(proof).c_str());
    }
  }
  return textOf(document, pugi::format_raw);
}

Bytes sheetPicture(const SheetContent& content, int cellWidth) {
  const Grid grid = gridOf(content);
  Size frame{3, 2};
  if (!content.proofs.empty()) frame = content.proofs.front()->recipe.frame;
  const int cellHeight = std::max(1, cellWidth * frame.height / frame.width), gap = 12;
  const int left = grid.down.empty() ? gap : 110, top = grid.across.empty() ? 52 : 80;
  const qint64 width = left + static_cast<qint64>(grid.columns) * (cellWidth + gap),
               height = top + static_cast<qint64>(grid.rows) * (cellHeight + foot + gap);
  if (width * height > 120'000'000 || width > 32000 || height > 32000)
    throw failed("The sheet is too large for one picture. Write it as a page (.html) or a table (.csv).");
  QImage sheet(static_cast<int>(width), static_cast<int>(height), QImage::Format_RGB32);
  sheet.fill(onScreen.ground);
  QPainter painter(&sheet);
  painter.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
  QFont font("Inter");
  font.setPixelSize(20);
  font.setWeight(QFont::DemiBold);
  painter.setFont(font);
  painter.setPen(onScreen.text);
  painter.drawText(QRect(gap, 8, sheet.width() - 2 * gap, 34), Qt::AlignLeft | Qt::AlignVCenter,
                   QString::fromStdString(content.title));
  font.setPixelSize(13);
  painter.setFont(font);
  painter.setPen(onScreen.soft);
  const auto columnX = [&](int column) { return left + column * (cellWidth + gap); };
  const auto rowY = [&](int row) { return top + row * (cellHeight + foot + gap); };
  for (int i = 0; i < static_cast<int>(grid.across.size()); ++i)
    painter.drawText(QRect(columnX(i), top - 26, cellWidth, 22), Qt::AlignCenter,
                     QString::fromStdString(grid.across[static_cast<std::size_t>(i)]));
  for (int i = 0; i < static_cast<int>(grid.down.size()); ++i)
    painter.drawText(QRect(4, rowY(i), left - 12, cellHeight), Qt::AlignVCenter | Qt::AlignRight,
                     QString::fromStdString(grid.down[static_cast<std::size_t>(i)]));
  for (const auto& [place, proof] : grid.at)
    drawCell(painter, {columnX(place.second), rowY(place.first), cellWidth, cellHeight}, content, *proof,
             pictureOf(content, *proof, cellWidth), grid.across.empty(), onScreen);
  painter.end();
  QByteArray png;
  QBuffer buffer(&png);
  buffer.open(QIODevice::WriteOnly);
  if (!sheet.save(&buffer, "PNG")) throw failed("The sheet could not be made into a picture.");
  return owned(std::as_bytes(std::span(png.constData(), static_cast<std::size_t>(png.size()))));
}

Bytes sheetPages(const SheetContent& content) {
  const Grid grid = gridOf(content);
  Size frame{3, 2};
  if (!content.proofs.empty()) frame = content.proofs.front()->recipe.frame;
  QByteArray pdf;
  QBuffer buffer(&pdf);
  buffer.open(QIODevice::WriteOnly);
  QPdfWriter writer(&buffer);
  writer.setPdfVersion(QPagedPaintDevice::PdfVersion_A1b);
  writer.setTitle(QString::fromStdString(content.title));
  writer.setCreator("Humble Scaffold");
  writer.setPageSize(QPageSize(QPageSize::A4));
  const bool lying = grid.columns * frame.width > grid.rows * frame.height;
  writer.setPageOrientation(lying ? QPageLayout::Landscape : QPageLayout::Portrait);
  writer.setPageMargins(QMarginsF(12, 12, 12, 12), QPageLayout::Millimeter);
  constexpr int dotsPerInch = 144, gap = 14, leastCell = 180, footLine = 22;
  writer.setResolution(dotsPerInch);
  QPainter painter(&writer);
  const QSize page(writer.width(), writer.height());
  const int left = grid.down.empty() ? 0 : 110, top = grid.across.empty() ? 56 : 84;
  // As many as can still be looked at; the rest goes on over other pages.
  const int room = page.width() - left, columns = std::clamp(room / (leastCell + gap), 1, grid.columns);
  const int fitting = (room - (columns - 1) * gap) / columns, below = page.height() - top - footLine;
  const int cellHeight = std::min(fitting * frame.height / frame.width, below - foot);
  const int cellWidth = std::min(fitting, cellHeight * frame.width / frame.height);
  const int rows = std::clamp((below + gap) / (cellHeight + foot + gap), 1, grid.rows);
  const int across = (grid.columns + columns - 1) / columns, down = (grid.rows + rows - 1) / rows;
  QFont font("Inter");
  for (int number = 0; number < across * down; ++number) {
    if (number > 0) writer.newPage();
    const int firstRow = number / across * rows, firstColumn = number % across * columns;
    font.setPixelSize(20);
    font.setWeight(QFont::DemiBold);
    painter.setFont(font);
    painter.setPen(onPaper.text);
    painter.drawText(QRect(0, 0, page.width(), 30), Qt::AlignLeft | Qt::AlignVCenter,
                     QString::fromStdString(content.title));
    font.setPixelSize(13);
    font.setWeight(QFont::Normal);
    painter.setFont(font);
    painter.setPen(onPaper.soft);
    if (!content.proofs.empty()) {
      const Brief& brief = content.plan != nullptr ? content.plan->base.brief : content.proofs.front()->recipe.brief;
      painter.drawText(
          QRect(0, 30, page.width(), 20), Qt::AlignLeft | Qt::AlignVCenter,
          painter.fontMetrics().elidedText(QString::fromStdString(brief.prompt), Qt::ElideRight, page.width()));
    }
    painter.drawText(QRect(0, page.height() - footLine, page.width(), footLine), Qt::AlignRight | Qt::AlignBottom,
                     QString("%1 of %2").arg(number + 1).arg(across * down));
    for (int row = firstRow; row < std::min(grid.rows, firstRow + rows); ++row)
      for (int column = firstColumn; column < std::min(grid.columns, firstColumn + columns); ++column) {
        const QRect cell(left + (column - firstColumn) * (cellWidth + gap),
                         top + (row - firstRow) * (cellHeight + foot + gap), cellWidth, cellHeight);
        painter.setPen(onPaper.soft);
        if (row == firstRow && !grid.across.empty())
          painter.drawText(QRect(cell.left(), top - 26, cellWidth, 22), Qt::AlignCenter,
                           QString::fromStdString(grid.across[static_cast<std::size_t>(column)]));
        if (column == firstColumn && !grid.down.empty())
          painter.drawText(QRect(0, cell.top(), left - 12, cellHeight), Qt::AlignVCenter | Qt::AlignRight,
                           QString::fromStdString(grid.down[static_cast<std::size_t>(row)]));
        if (const auto found = grid.at.find({row, column}); found != grid.at.end())
          drawCell(painter, cell, content, *found->second, pictureOf(content, *found->second, 4 * cellWidth),
                   grid.across.empty(), onPaper);
      }
  }
  if (!painter.end()) throw failed("The sheet could not be made into pages.");
  return owned(std::as_bytes(std::span(pdf.constData(), static_cast<std::size_t>(pdf.size()))));
}

Bytes sheetFile(const SheetContent& content, const std::string& name) {
  const auto ends = [&](const char* ending) {
    return QString::fromStdString(name).endsWith(ending, Qt::CaseInsensitive);
  };
  if (ends(".csv")) return owned(bytesOf(sheetTable(content)));
  if (ends(".html") || ends(".htm")) return owned(bytesOf(sheetPage(content)));
  if (ends(".png")) return sheetPicture(content);
  if (ends(".pdf")) return sheetPages(content);
  throw badInput("A sheet is written as .png, .pdf, .csv or .html, and " + name + " is none of them.");
}

}  // namespace hscaffold
