# The workbench in an image; the data live in a volume. docs/deploy.md says how it is run.
FROM node:20-bookworm AS build
WORKDIR /src
COPY package.json package-lock.json .npmrc ./
COPY scripts ./scripts
RUN npm ci
COPY . .
RUN node scripts/build.mjs && npm pack --pack-destination /tmp

FROM node:20-bookworm-slim
RUN --mount=type=bind,from=build,source=/tmp,target=/pack npm install --global /pack/loyal-heron-*.tgz
USER node
ENV HERON_DATA=/home/node/data
RUN mkdir -p /home/node/data
VOLUME /home/node/data
EXPOSE 4680
# beyond this machine it wants HERON_TOKEN, and the names by which it is reached in HERON_HOSTS
HEALTHCHECK --interval=30s --timeout=5s --start-period=20s \
	CMD ["node", "-e", "fetch('http://127.0.0.1:4680/api/health').then((r) => process.exit(r.ok ? 0 : 1), () => process.exit(1))"]
CMD ["heron", "serve", "--host", "0.0.0.0", "--port", "4680"]
