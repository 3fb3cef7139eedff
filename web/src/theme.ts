// Workshop paper and ink: the colours of the bench, in both themes.
import { createVuetify } from 'vuetify';
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg';
import 'vuetify/styles';

export const vuetify = createVuetify({
    icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
    theme: {
        defaultTheme: 'paper',
        themes: {
            paper: {
                dark: false,
                colors: {
                    background: '#F4F0E7',
                    surface: '#FBF9F4',
                    paper: '#FFFDF5',
                    'on-background': '#1F2B33',
                    'on-surface': '#1F2B33',
                    primary: '#8A5F14',
                    rule: '#D8D0BF',
                    hazard: '#8A5A00',
                    inside: '#2A6F64',
                    error: '#A81E37',
                    warning: '#8A5A00',
                    success: '#2E6B3A',
                    info: '#35586B',
                },
                // Labels of fields must be read, too.
                variables: { 'medium-emphasis-opacity': 0.8 },
            },
            night: {
                dark: true,
                colors: {
                    background: '#1B2329',
                    surface: '#232D34',
                    paper: '#2B3740',
                    'on-background': '#E9E3D6',
                    'on-surface': '#E9E3D6',
                    primary: '#D9A441',
                    rule: '#3A464E',
                    hazard: '#F2B632',
                    inside: '#6FC4B5',
                    error: '#F0798C',
                    warning: '#F2B632',
                    success: '#8CCB97',
                    info: '#9CC3D8',
                },
            },
        },
    },
    defaults: {
        VBtn: { variant: 'text', rounded: 'sm', class: 'text-none' },
        VTextField: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
        VSelect: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
        VAutocomplete: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
        VTooltip: { openDelay: 500 },
    },
});
