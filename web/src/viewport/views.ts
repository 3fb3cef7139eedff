// Directions of view, and looks of models.
/** How a model is drawn where not as the lens has it. */
export interface Look {
    tint?: string;
    /** Seen through. */
    ghost?: boolean;
}

export type Direction = 'home' | 'front' | 'back' | 'left' | 'right' | 'top' | 'bottom';
export const directions: Record<Direction, [number, number, number]> = {
    home: [0.75, -1, 0.62],
    front: [0, -1, 0],
    back: [0, 1, 0],
    left: [-1, 0, 0],
    right: [1, 0, 0],
    // A touch off the pole, so that the picture does not spin.
    top: [0, -0.001, 1],
    bottom: [0, -0.001, -1],
};
