#include "app/proofs/tokens.h"

#include <qt6keychain/keychain.h>

#include <QDir>
#include <QFile>
#include <QPointer>
#include <QSaveFile>
#include <QStandardPaths>
#include <QUrl>

namespace hscaffold::app {
namespace {

constexpr const char* serviceName = "humble-scaffold";

QString fileOf(const std::string& name) {
  return QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/tokens/" +
         QString::fromUtf8(QUrl::toPercentEncoding(QString::fromStdString(name)));
}

void writeFile(const std::string& name, const std::string& token) {
  const QString path = fileOf(name);
  if (token.empty()) {
    QFile::remove(path);
    return;
  }
  QDir().mkpath(QFileInfo(path).path());
  QSaveFile file(path);
  if (!file.open(QIODevice::WriteOnly)) return;
  // Before there is anything in it.
  file.setPermissions(QFileDevice::ReadOwner | QFileDevice::WriteOwner);
  file.write(QByteArray::fromStdString(token));
  file.commit();
}

std::string readFile(const std::string& name) {
  QFile file(fileOf(name));
  constexpr qint64 longest = 4096;
  return file.open(QIODevice::ReadOnly) ? file.read(longest).toStdString() : std::string();
}

}  // namespace

void keepToken(QObject* context, const std::string& name, const std::string& token,
               const std::function<void(TokenPlace)>& done) {
  if (token.empty()) {
    auto* job = new QKeychain::DeletePasswordJob(serviceName);
    job->setKey(QString::fromStdString(name));
    job->start();
    writeFile(name, {});
    done(TokenPlace::file);
    return;
  }
  auto* job = new QKeychain::WritePasswordJob(serviceName);
  job->setInsecureFallback(false);
  job->setKey(QString::fromStdString(name));
  job->setTextData(QString::fromStdString(token));
  QObject::connect(job, &QKeychain::Job::finished, context, [name, token, done](QKeychain::Job* ended) {
    const bool kept = ended->error() == QKeychain::NoError;
    // One place only: an older one in the file would come back some day.
    writeFile(name, kept ? std::string() : token);
    done(kept ? TokenPlace::keyring : TokenPlace::file);
  });
  job->start();
}

void readToken(QObject* context, const std::string& name, const std::function<void(const std::string&)>& done) {
  if (auto token = readFile(name); !token.empty()) return done(token);
  auto* job = new QKeychain::ReadPasswordJob(serviceName);
  job->setInsecureFallback(false);
  job->setKey(QString::fromStdString(name));
  QObject::connect(job, &QKeychain::Job::finished, context, [done](QKeychain::Job* ended) {
    auto* read = static_cast<QKeychain::ReadPasswordJob*>(ended);
    done(read->error() == QKeychain::NoError ? read->textData().toStdString() : std::string());
  });
  job->start();
}

}  // namespace hscaffold::app
