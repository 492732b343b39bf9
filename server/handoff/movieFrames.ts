/** Pictures of a movie's frames until they are put together, below the delivery's key. */
export const MOVIE_FRAMES = '.frames'

/** Where the picture of a frame waits. */
export const movieFrame = (movie: string, frame: number) => `${MOVIE_FRAMES}/${movie}/${frame}.png`
/** The movie that such a picture is part of. */
export const movieOf = (framePath: string) => framePath.slice(MOVIE_FRAMES.length + 1, framePath.lastIndexOf('/'))
