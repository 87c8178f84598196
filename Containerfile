# The application as a container: `podman build --format docker -t wedge-turn .`, so that its health check is kept, then
# `podman run -p 8470:8470 -v wedge-turn:/data -e WEDGE_TURN_PASSWORD=… wedge-turn`.
FROM docker.io/library/node:22-slim AS web
WORKDIR /build
COPY web/package.json web/package-lock.json web/.npmrc web/
RUN cd web && npm ci --omit=dev --no-fund --no-audit
COPY docs/guide docs/guide
COPY docs/screenshots docs/screenshots
COPY web web
RUN cd web && npx --no-install vite build --logLevel error

FROM docker.io/library/python:3.11-slim
WORKDIR /app
COPY requirements.txt .
RUN pip install --no-cache-dir -r requirements.txt
COPY pyproject.toml README.md LICENSE ./
COPY src src
COPY --from=web /build/src/wedge_turn/webapp src/wedge_turn/webapp
RUN pip install --no-cache-dir --no-deps . \
    && useradd --create-home --uid 10001 wedge && mkdir /data && chown wedge /data
USER wedge
# Kernels are kept where who runs them may write: what root compiles is compiled again.
RUN python -m wedge_turn.core.warm
VOLUME /data
EXPOSE 8470
HEALTHCHECK --start-period=30s CMD ["python", "-c", "import urllib.request; urllib.request.urlopen('http://127.0.0.1:8470/api/health', timeout=5)"]
CMD ["wedge-turn", "serve", "--host", "0.0.0.0", "--data", "/data"]
