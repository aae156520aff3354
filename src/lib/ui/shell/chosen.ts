/** The environment that a browser chose for a project is kept in a cookie, so that the server draws the first page with it. */
export const environmentCookie = (project: string): string => `environment.${encodeURIComponent(project)}`;

const YEAR_SECONDS = 31_536_000;

export function keepChosen(project: string, environment: string): void {
	document.cookie = `${environmentCookie(project)}=${encodeURIComponent(environment)}; path=/; max-age=${YEAR_SECONDS}; samesite=strict`;
}

/** The project that a browser had open last. */
export const PROJECT_COOKIE = 'project';
export function keepProject(name: string): void {
	document.cookie = `${PROJECT_COOKIE}=${encodeURIComponent(name)}; path=/; max-age=${YEAR_SECONDS}; samesite=strict`;
}
