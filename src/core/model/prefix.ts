/** Prefixes as XPaths bear them (Namespaces in XML 1.0 section 3). */
export const PREFIX = /^[A-Za-z_][\w.-]*$/;
