declare module '*.css';
declare module '@fontsource-variable/archivo/wdth.css';
declare module '*.ttf?url' {
  const url: string;
  export default url;
}
